// SPDX-License-Identifier: MIT
// What keys mean, by the table alone.
#include <QtTest>

#include "grid/input/key_map.h"

using namespace jollyrow;

Q_DECLARE_METATYPE(GridKey)
Q_DECLARE_METATYPE(KeyTurn)
Q_DECLARE_METATYPE(SelectHow)

class KeyMapTest : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void keysMean_data() {
        QTest::addColumn<int>("key");
        QTest::addColumn<Qt::KeyboardModifiers>("held");
        QTest::addColumn<GridKey>("what");
        QTest::addColumn<KeyTurn>("turn");
        QTest::addColumn<SelectHow>("how");
        const auto row = [](const char* name, int key, Qt::KeyboardModifiers held, GridKey what, KeyTurn turn,
                            SelectHow how = SelectHow::Replace) {
            QTest::newRow(name) << key << held << what << turn << how;
        };
        const Qt::KeyboardModifiers none, shift = Qt::ShiftModifier, ctrl = Qt::ControlModifier, alt = Qt::AltModifier,
                                          pad = Qt::KeypadModifier;
        row("find", Qt::Key_F, ctrl, GridKey::Find, KeyTurn::First);
        row("filter", Qt::Key_F, ctrl | shift, GridKey::FocusFilter, KeyTurn::First, SelectHow::Extend);
        row("next found", Qt::Key_F3, none, GridKey::FindNext, KeyTurn::First);
        row("previous found", Qt::Key_F3, shift, GridKey::FindPrevious, KeyTurn::First, SelectHow::Extend);
        row("back", Qt::Key_Left, alt, GridKey::Back, KeyTurn::AfterHeadings);
        row("forward, by the keypad", Qt::Key_Right, alt | pad, GridKey::Forward, KeyTurn::AfterHeadings);
        row("to the group above", Qt::Key_Up, alt | shift, GridKey::ToGroupAbove, KeyTurn::AfterGroups,
            SelectHow::Extend);
        row("to the group below", Qt::Key_Down, alt | shift, GridKey::ToGroupBelow, KeyTurn::AfterGroups,
            SelectHow::Extend);
        row("side by side", Qt::Key_B, ctrl, GridKey::SideBySide, KeyTurn::AfterGroups);
        row("left", Qt::Key_Left, none, GridKey::Left, KeyTurn::AfterGroups);
        row("left with both is no way back", Qt::Key_Left, alt | ctrl, GridKey::Left, KeyTurn::AfterGroups);
        row("down moves alone", Qt::Key_Down, ctrl, GridKey::Down, KeyTurn::AfterGroups, SelectHow::MoveOnly);
        row("down extends", Qt::Key_Down, shift, GridKey::Down, KeyTurn::AfterGroups, SelectHow::Extend);
        row("sideways never alone", Qt::Key_Right, ctrl, GridKey::Right, KeyTurn::AfterGroups);
        row("end", Qt::Key_End, none, GridKey::RowEnd, KeyTurn::AfterGroups);
        row("the last", Qt::Key_End, ctrl, GridKey::Last, KeyTurn::AfterGroups);
        row("to the first, extended", Qt::Key_Home, ctrl | shift, GridKey::First, KeyTurn::AfterGroups,
            SelectHow::Extend);
        row("toggled", Qt::Key_Space, ctrl, GridKey::Space, KeyTurn::AfterGroups, SelectHow::Toggle);
        row("all", Qt::Key_A, ctrl, GridKey::SelectAll, KeyTurn::AfterGroups);
        row("copied", Qt::Key_Insert, ctrl, GridKey::Copy, KeyTurn::AfterGroups);
        row("entered on the keypad", Qt::Key_Enter, pad, GridKey::Activate, KeyTurn::AfterGroups);
    }
    void keysMean() {
        QFETCH(int, key);
        QFETCH(Qt::KeyboardModifiers, held);
        const auto stroke = strokeOf(key, held);
        QVERIFY(stroke);
        QFETCH(GridKey, what);
        QFETCH(KeyTurn, turn);
        QFETCH(SelectHow, how);
        QCOMPARE(*stroke, (KeyStroke{what, turn, how}));
    }

    /// What is typed is text, and what belongs to others is left to them.
    void otherKeysAreNobodys() {
        const Qt::KeyboardModifiers ctrl = Qt::ControlModifier, alt = Qt::AltModifier;
        for (int key = Qt::Key_0; key <= Qt::Key_Z; ++key) QVERIFY(!strokeOf(key, {}));
        for (const int key : {Qt::Key_O, Qt::Key_N, Qt::Key_P, Qt::Key_W}) QVERIFY(!strokeOf(key, ctrl));
        QVERIFY(!strokeOf(Qt::Key_A, ctrl | Qt::ShiftModifier));
        QVERIFY(!strokeOf(Qt::Key_C, alt));
        QVERIFY(!strokeOf(Qt::Key_Tab, ctrl));  // the window's
    }
};

QTEST_MAIN(KeyMapTest)
#include "tst_key_map.moc"
