// SPDX-License-Identifier: MIT
// What widgets paint themselves is there for everybody: stations of the Rowline and conditions of the filter words as
// objects of assistive technology, pressed and followed by keys; texts and edges stand out in every look; at twice the
// text nothing of the side panels is cut, and the Rowline grows.
#include <QtTest>

#include <QAccessible>
#include <QCheckBox>
#include <QLabel>
#include <QPushButton>
#include <QTemporaryDir>

#include "core/design/design_file.h"
#include "demo/boatyard.h"
#include "grid/api/filter_words.h"
#include "grid/api/grid.h"
#include "grid/paint/contrast.h"
#include "grid/paint/looks.h"
#include "tests/workbench/open_window.h"
#include "workbench/build/build_page.h"
#include "workbench/fittings/fittings.h"
#include "workbench/popovers/popover.h"
#include "workbench/rowline/rowline_bar.h"

using namespace jollyrow;

namespace {

QAccessibleInterface* face(QWidget* widget) { return QAccessible::queryAccessibleInterface(widget); }
QString nameOf(QAccessibleInterface* part) { return part ? part->text(QAccessible::Name) : QString("none"); }

}  // namespace

class PaintedPartsTest : public QObject {
    Q_OBJECT
    QTemporaryDir folder_;
    QString design_;
    std::unique_ptr<MainWindow> window_;

    Grid& grid() { return window_->buildPage().grid(); }
    RowlineBar& rowline() { return window_->buildPage().rowline(); }
    FilterWords& words() { return *window_->buildPage().findChild<FilterWords*>(); }
    bool until(const std::function<bool()>& condition) { return QTest::qWaitFor(condition, 8000); }
    void open(const std::vector<std::string>& conditions) {
        Design design = demo::yardJobsDesign("kelpie-quay.db");
        design.filter.clear();
        for (const std::string& rule : conditions) design.filter.push_back({rule, "", "", true, {}});
        QVERIFY(writeDesignFile(design_.toStdString(), design).ok());
        window_ = test::shownWindow();
        QVERIFY(window_);
        window_->openPath(design_);
        QVERIFY(until([this] { return !grid().isLoading() && grid().lineCount() > 0; }));
    }

  private Q_SLOTS:
    void initTestCase() {
        test::prepareWorkbench();
        design_ = folder_.filePath("yard-jobs.jrow");
        QVERIFY(demo::makeBoatyard(folder_.filePath("kelpie-quay.db").toStdString(), {400, 3}, {}).ok());
    }
    void cleanup() {
        window_.reset();
        setTextScale(0);
        applyLook(*qApp, Theme::Light);
    }

    void stationsAreButtonsOfTheirOwn() {
        open({"hours > 2"});
        QAccessibleInterface* bar = face(&rowline());
        QVERIFY(bar);
        QCOMPARE(bar->childCount(), 5);
        QStringList names;
        for (int i = 0; i < bar->childCount(); ++i) {
            QAccessibleInterface* station = bar->child(i);
            QVERIFY(station && station->isValid());
            QCOMPARE(bar->child(i), station);  // its identity holds
            QCOMPARE(bar->indexOfChild(station), i);
            QCOMPARE(station->parent(), bar);
            QCOMPARE(station->role(), QAccessible::Button);
            QCOMPARE(station->childCount(), 0);
            const QPoint middle = station->rect().center();
            QCOMPARE(bar->childAt(middle.x(), middle.y()), station);
            names << nameOf(station);
        }
        QVERIFY2(names[0].startsWith("Source: "), qPrintable(names.join('\n')));
        QVERIFY2(names[1].startsWith("Filter: ") && names[1].contains("Hours"), qPrintable(names[1]));
        const QString shown = QString::number(grid().lineCount());
        QVERIFY2(bar->child(1)->text(QAccessible::Description).contains(shown + " rows"),
                 qPrintable(bar->child(1)->text(QAccessible::Description)));
        // Pressed by assistive technology as by the mouse.
        auto* action = bar->child(2)->actionInterface();
        QVERIFY(action);
        QCOMPARE(action->actionNames(), QStringList{QAccessibleActionInterface::pressAction()});
        action->doAction("nonsense");
        QVERIFY(!window_->findChild<Popover*>());
        action->doAction(QAccessibleActionInterface::pressAction());
        QTRY_VERIFY(window_->findChild<Popover*>());
        QTest::keyClick(window_->findChild<Popover*>(), Qt::Key_Escape);
        QTRY_VERIFY(!window_->findChild<Popover*>());
    }

    void keysTellWhichStationTheyActOn() {
        open({});
        window_->activateWindow();
        rowline().setFocus();
        QTRY_VERIFY(rowline().hasFocus());
        QTest::keyClick(&rowline(), Qt::Key_Right);
        QTest::keyClick(&rowline(), Qt::Key_Right);
        QVERIFY(face(&rowline())->child(2)->state().focused);
        QVERIFY(!face(&rowline())->child(1)->state().focused);
        QCOMPARE(face(&rowline())->focusChild(), face(&rowline())->child(2));
        for (int i = 0; i < 9; ++i) QTest::keyClick(&rowline(), Qt::Key_Left);
        QCOMPARE(face(&rowline())->focusChild(), face(&rowline())->child(0));
        QTest::keyClick(&rowline(), Qt::Key_Space);
        QTRY_VERIFY(window_->findChild<Popover*>());
        QTest::keyClick(window_->findChild<Popover*>(), Qt::Key_Escape);
    }

    void conditionsAreBoxesOfTheirOwn() {
        open({"hours > 2", "status <> 'Done'"});
        QVERIFY(words().isVisible());
        QAccessibleInterface* line = face(&words());
        QVERIFY(line);
        // Two conditions, each with its cross; "+ Add" and "Clear all".
        QStringList names;
        for (int i = 0; i < line->childCount(); ++i) names << nameOf(line->child(i));
        QVERIFY2(line->childCount() == 6 && names[4] == "+ Add" && names[5] == "Clear all",
                 qPrintable(names.join('|')));
        QCOMPARE(names[1], "Take away: " + names[0]);
        QAccessibleInterface* first = line->child(0);
        QCOMPARE(first->role(), QAccessible::CheckBox);
        QVERIFY(first->state().checkable && first->state().checked);
        const std::int64_t filtered = grid().lineCount();
        first->actionInterface()->doAction(QAccessibleActionInterface::pressAction());
        QVERIFY(until([&] { return grid().lineCount() > filtered; }));
        QVERIFY(!line->child(0)->state().checked);
        line->child(1)->actionInterface()->doAction(QAccessibleActionInterface::pressAction());
        QVERIFY(until([&] { return grid().design().filter.size() == 1; }));
        // What is gone is gone for who holds it still, and does nothing.
        QAccessibleInterface* last = line->child(line->childCount() - 1);
        const int count = line->childCount();
        words().setFocus();
        QTest::keyClick(&words(), Qt::Key_Delete);
        QVERIFY(until([&] { return grid().design().filter.empty(); }));
        QVERIFY(line->childCount() < count);
        QVERIFY(!line->child(line->childCount()));
        QVERIFY(!last->isValid() && last->state().invalid && last->rect().isEmpty());
        last->actionInterface()->doAction(QAccessibleActionInterface::pressAction());
        QVERIFY(grid().design().filter.empty());
    }

    /// By keys alone: to a condition, to "Clear all" behind them, and back by "Earlier".
    void everythingInTheLineIsReachedByKeys() {
        open({"hours > 2", "status <> 'Done'"});
        const std::int64_t filtered = grid().lineCount();
        window_->activateWindow();
        words().setFocus();
        QTRY_VERIFY(words().hasFocus());
        QTest::keyClick(&words(), Qt::Key_Space);
        QVERIFY(until([&] { return !grid().design().filter[0].on; }));
        for (int i = 0; i < 9; ++i) QTest::keyClick(&words(), Qt::Key_Right);
        QTest::keyClick(&words(), Qt::Key_Delete);  // no condition: nothing happens
        QCOMPARE(grid().design().filter.size(), std::size_t{2});
        const auto focused = [this] {
            for (int i = 0; i < words().partCount(); ++i)
                if (words().part(i).hasFocus) return words().part(i).name;
            return QString();
        };
        for (int i = 0; i < 9 && focused() != "Clear all"; ++i) QTest::keyClick(&words(), Qt::Key_Left);
        QCOMPARE(focused(), QString("Clear all"));
        QTest::keyClick(&words(), Qt::Key_Return);
        QVERIFY(until([&] { return grid().design().filter.empty() && grid().lineCount() > filtered; }));
    }

    void textsAndEdgesStandOut_data() {
        QTest::addColumn<QString>("look");
        for (const char* look : {"yard", "slate", "chart", "contrast"}) QTest::newRow(look) << look;
    }
    void textsAndEdgesStandOut() {
        QFETCH(QString, look);
        for (const Theme theme : {Theme::Light, Theme::Dark}) {
            const Tokens t = readyLook(look.toStdString(), theme);
            const std::pair<const char*, QColor> surfaces[] = {{"paper", t.paper},   {"stripe", t.stripe},
                                                               {"page", t.page},     {"panel", t.panel},
                                                               {"panel2", t.panel2}, {"group2", t.group2}};
            const auto least = [&](const char* what, const QColor& colour, const char* where, const QColor& behind,
                                   double wanted) {
                const double is = contrast(colour, behind);
                if (is < wanted)
                    qWarning("%s, %s: %s on %s is %.2f", qPrintable(look), theme == Theme::Dark ? "dark" : "light",
                             what, where, is);
                return is >= wanted;
            };
            bool isGood = true;
            for (const auto& [where, behind] : surfaces) {
                isGood &= least("ink", t.ink, where, behind, 4.5);
                isGood &= least("ink2", t.ink2, where, behind, 4.5);
                isGood &= least("entryEdge", t.entryEdge, where, behind, 3);
                isGood &= least("teal", t.teal, where, behind, 3);
            }
            for (const auto& [where, behind] : {surfaces[0], surfaces[2], surfaces[3]}) {
                isGood &= least("tealText", t.tealText, where, behind, 4.5);
                isGood &= least("buoyText", t.buoyText, where, behind, 4.5);
                isGood &= least("brassText", t.brassText, where, behind, 4.5);
                isGood &= least("ink3", t.ink3, where, behind, 3);
                isGood &= least("buoy", t.buoy, where, behind, 3);
                isGood &= least("brass", t.brass, where, behind, 3);
                isGood &= least("blue", t.blue, where, behind, 3);
            }
            isGood &= least("onTeal", t.onTeal, "teal", t.teal, 4.5);
            for (const QColor& text : {t.ink, t.ink2, t.tealText})
                isGood &= least("text", text, "tealPale", t.tealPale, 4.5);
            isGood &= least("ink", t.ink, "hoverRow", t.hoverRow, 4.5);
            isGood &= least("buoyText", t.buoyText, "buoyPale", t.buoyPale, 4.5);
            isGood &= least("brassText", t.brassText, "brassPale", t.brassPale, 4.5);
            QVERIFY(isGood);
        }
    }

    void atTwiceTheTextNothingIsCut() {
        const int before = [this] {
            open({"hours > 2"});
            return rowline().height();
        }();
        window_.reset();
        setTextScale(2);
        applyLook(*qApp, Theme::Light);
        open({"hours > 2"});
        window_->resize(1920, 1200);
        QVERIFY(until([this] { return window_->width() == 1920; }));
        QCOMPARE(rowline().height(), 2 * before);
        for (const Stage stage : {Stage::Source, Stage::Filter, Stage::Sort, Stage::Group, Stage::Summaries}) {
            const QRect station = rowline().stationRect(stage);
            QVERIFY(rowline().rect().intersects(station) && station.height() == 2 * 68);
        }
        QTest::mouseClick(&rowline(), Qt::LeftButton, {}, rowline().stationRect(Stage::Filter).center());
        QTRY_VERIFY(window_->findChild<Popover*>());
        const auto cut = [](QWidget* panel) {
            QStringList names;
            const auto note = [&](QWidget* widget, const QString& words) {
                if (widget->isVisible() && !words.isEmpty() && widget->width() < widget->minimumSizeHint().width() - 1)
                    names << words;
            };
            for (auto* box : panel->findChildren<QCheckBox*>()) note(box, box->text());
            for (auto* button : panel->findChildren<QPushButton*>()) note(button, button->text());
            for (auto* label : panel->findChildren<QLabel*>())
                if (!label->wordWrap()) note(label, label->text());
            return names.join('|');
        };
        QCOMPARE(cut(window_->findChild<Popover*>()), QString());
        QCOMPARE(cut(window_->buildPage().findChild<Fittings*>()), QString());
        QVERIFY(words().height() >= words().fontMetrics().height() + 8);
    }
};

QTEST_MAIN(PaintedPartsTest)
#include "tst_painted_parts.moc"
