// SPDX-License-Identifier: MIT
// The entry over a cell by itself: keys, choices, calendar, and what a refusal looks like.
#include <QtTest>

#include <QAbstractItemView>
#include <QCompleter>
#include <QLabel>
#include <QPushButton>

#include "grid/editors/choice_editor.h"
#include "grid/editors/message_strip.h"
#include "grid/editors/month_popup.h"

using namespace jollyrow;

namespace {
FieldSchema fieldOf(Type type, std::vector<std::string> permitted = {}) {
    FieldSchema field;
    field.name = "f";
    field.type = type;
    field.permitted = std::move(permitted);
    return field;
}
}  // namespace

class EditorTest : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void keysCommitAndAbandon_data() {
        QTest::addColumn<int>("key");
        QTest::addColumn<int>("lines");
        QTest::addColumn<int>("columns");
        QTest::newRow("enter goes down") << int(Qt::Key_Return) << 1 << 0;
        QTest::newRow("tab goes right") << int(Qt::Key_Tab) << 0 << 1;
        QTest::newRow("shift tab goes left") << int(Qt::Key_Backtab) << 0 << -1;
        QTest::newRow("up") << int(Qt::Key_Up) << -1 << 0;
        QTest::newRow("down") << int(Qt::Key_Down) << 1 << 0;
    }
    void keysCommitAndAbandon() {
        QFETCH(int, key);
        QFETCH(int, lines);
        QFETCH(int, columns);
        QWidget window;
        LineEditor editor({fieldOf(Type::Text)}, &window);
        window.show();
        QSignalSpy committed(&editor, &Editor::committed), abandoned(&editor, &Editor::abandoned);
        QTest::keyClick(entry(editor), static_cast<Qt::Key>(key));
        QCOMPARE(committed.count(), 1);
        QCOMPARE(committed.at(0), (QList<QVariant>{lines, columns}));
        QTest::keyClick(entry(editor), Qt::Key_Escape);
        QCOMPARE(abandoned.count(), 1);
        QTest::keyClick(entry(editor), Qt::Key_Left);  // moves in the text
        QCOMPARE(committed.count(), 1);
    }

    void choicesAreOffered() {
        QWidget window;
        window.resize(400, 300);
        ChoiceEditor editor({fieldOf(Type::Text, {"Quoted", "Booked", "In hand"})}, &window);
        editor.setGeometry(10, 10, 200, 26);
        window.show();
        QVERIFY(QTest::qWaitForWindowExposed(&window));
        editor.begin({Value("Booked"), "Booked", {}});
        auto* completer = editor.findChild<QCompleter*>();
        QCOMPARE(completer->completionCount(), 3);
        QCOMPARE(completer->popup()->currentIndex().data().toString(), QString("Booked"));
        QSignalSpy committed(&editor, &Editor::committed);
        entry(editor)->selectAll();
        QTest::keyClicks(entry(editor), "hand");
        QCOMPARE(completer->completionCount(), 1);
        Q_EMIT completer->activated(completer->currentCompletion());
        QCOMPARE(editor.typed(), QString("In hand"));
        QCOMPARE(committed.count(), 1);
    }

    void theCalendarIsWalkedByKeys() {
        QWidget window;
        MonthPopup popup(QDate(2026, 1, 31), &window);
        popup.setAttribute(Qt::WA_DeleteOnClose, false);
        popup.show();
        QSignalSpy chosen(&popup, &MonthPopup::chosen);
        for (const Qt::Key key : {Qt::Key_PageDown, Qt::Key_Right, Qt::Key_Down, Qt::Key_Left})
            QTest::keyClick(&popup, key);
        QTest::keyClick(&popup, Qt::Key_Return);
        QCOMPARE(chosen.at(0).at(0).toDate(), QDate(2026, 3, 7));  // 28 Feb, 1 Mar, 8 Mar, 7 Mar
        QVERIFY(!popup.isVisible());
    }

    void theCalendarIsClicked() {
        QWidget window;
        MonthPopup popup(QDate(2026, 11, 23), &window);
        popup.setAttribute(Qt::WA_DeleteOnClose, false);
        popup.show();
        QSignalSpy chosen(&popup, &MonthPopup::chosen);
        QTest::mouseClick(&popup, Qt::LeftButton, {}, QPoint(popup.width() - 20, 20));  // to December
        QTest::mouseClick(&popup, Qt::LeftButton, {}, QPoint(10 + 1 * 28 + 14, 10 + 30 + 20 + 14));
        QCOMPARE(chosen.at(0).at(0).toDate(), QDate(2026, 12, 1));  // a Tuesday in the first week
    }

    void theStripStaysInsideItsRoomAndItsLinksAct() {
        QWidget window;
        window.resize(500, 200);
        window.show();
        MessageStrip strip(&window);
        int acted = 0;
        const QString message =
            "Hours must be from 0.25 to 400. You typed a number that is much too large for any job that this yard has "
            "ever had.";
        for (const QRect cell : {QRect(0, 20, 60, 26), QRect(450, 20, 60, 26), QRect(200, 170, 80, 26)}) {
            strip.showUnder(cell, QRect(0, 0, 500, 200), message,
                            {{"Put back 3.5", [&] { ++acted; }}, {"Try again", [&] { acted += 10; }}});
            QVERIFY(QRect(0, 0, 500, 200).contains(strip.geometry()));
            QVERIFY(!strip.geometry().intersects(cell.adjusted(2, 2, -2, -2)));
            QCOMPARE(strip.message(), message);
        }
        QCoreApplication::sendPostedEvents(nullptr, QEvent::DeferredDelete);
        const auto links = strip.findChildren<QPushButton*>();
        QCOMPARE(links.size(), 2);
        QTest::mouseClick(links[0], Qt::LeftButton);
        QTest::keyClick(links[1], Qt::Key_Space);
        QCOMPARE(acted, 11);
    }

  private:
    static QLineEdit* entry(Editor& editor) { return editor.findChild<QLineEdit*>("cellEntry"); }
};

QTEST_MAIN(EditorTest)
#include "tst_editor.moc"
