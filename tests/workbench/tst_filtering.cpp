// SPDX-License-Identifier: MIT
// The workbench on the boatyard's vessels: sort them by the month and day their insurance runs out, filter by row, pick
// list, builder and own operator, find, bypass, save, and take all of it back.
#include <QtTest>

#include <QAbstractItemView>
#include <QCheckBox>
#include <QComboBox>
#include <QCompleter>
#include <QLineEdit>
#include <QPlainTextEdit>
#include <QPushButton>

#include "core/columns/civil.h"
#include "core/design/design_file.h"
#include "core/rules/program.h"
#include "core/session/session.h"
#include "demo/boatyard.h"
#include "grid/api/filter_words.h"
#include "grid/filter/filter_row.h"
#include "grid/filter/pick_popup.h"
#include "grid/find/find_bar.h"
#include "tests/workbench/open_window.h"
#include "workbench/app/look.h"
#include "workbench/app/main_window.h"
#include "workbench/build/build_page.h"
#include "workbench/popovers/filter_popover.h"
#include "workbench/popovers/sort_popover.h"
#include "workbench/rowline/rowline_bar.h"
#include "workbench/rules/rule_entry.h"

using namespace jollyrow;

class FilteringTest : public QObject {
    Q_OBJECT
    std::unique_ptr<QTemporaryDir> folder_;
    std::unique_ptr<MainWindow> window_;
    QString database_;

    BuildPage& build() { return *window_->findChild<BuildPage*>(); }
    Grid& grid() { return build().grid(); }
    Document& document() { return window_->document(); }
    std::int64_t lines() { return grid().lineCount(); }
    void clickStation(Stage stage) {
        QTest::mouseClick(&build().rowline(), Qt::LeftButton, {}, build().rowline().stationRect(stage).center());
    }

  private Q_SLOTS:
    void initTestCase() { test::prepareWorkbench(); }
    void init() {
        folder_ = std::make_unique<QTemporaryDir>();
        database_ = folder_->filePath("kelpie-quay.db");
        QVERIFY(demo::makeBoatyard(database_.toStdString(), {2000, 3}, {}).ok());
        window_ = test::shownWindow();
        QVERIFY(window_);
        QVERIFY(window_->document().openDatabase(database_, "vessels").ok());
        window_->showScreen(MainWindow::Screen::Build);
        QTRY_VERIFY(lines() > 50 && !grid().isLoading());
        window_->activateWindow();
    }
    void cleanup() { window_.reset(); }

    /// A function is offered as it is written and put in by its name; a column's name stays whole.
    void offersSayHowTheyAreWritten() {
        TableSchema schema;
        RuleEntry rule({"work", "rough (net)"}, [&](const std::string& text) { return compileRule(text, schema); });
        rule.resize(600, 80);
        rule.show();
        QVERIFY(QTest::qWaitForWindowActive(&rule));
        rule.edit().setFocus();
        auto* offers = rule.findChild<QCompleter*>();
        const auto taken = [&](const char* typed, const QString& shown) {
            rule.edit().clear();
            QTest::keyClicks(&rule.edit(), typed);
            if (!QTest::qWaitFor([&] { return offers->popup()->isVisible(); }, 3000)) return QString("no offers");
            const QString first = offers->popup()->currentIndex().data().toString();
            if (first != shown) return first;
            QTest::keyClick(&rule.edit(), Qt::Key_Return);
            return rule.text();
        };
        QCOMPARE(taken("rou", "rough (net)"), QString("rough (net)"));
        QCOMPARE(taken("date_t", "DATE_TRUNC('month', timestamp)"), QString("DATE_TRUNC("));
        QCOMPARE(taken("wid", "WIDTH_BUCKET(number, low, high, count)"), QString("WIDTH_BUCKET("));
    }

    void vesselsByInsuranceDayFilteredAndFound() {
        const Design opened = document().design();
        const std::int64_t all = lines();
        // Sort: the rule offered is the date's month and day.
        clickStation(Stage::Sort);
        auto* sort = window_->findChild<SortPopover*>();
        QVERIFY(sort);
        QComboBox* add = nullptr;
        for (QComboBox* box : sort->findChildren<QComboBox*>())
            if (box->accessibleName() == "Add a key" && box->isVisibleTo(sort)) add = box;
        QVERIFY(add);
        const int rulePlace = add->findText("A rule…");
        add->setCurrentIndex(rulePlace);
        Q_EMIT add->activated(rulePlace);
        RuleEntry* rule = nullptr;
        QTRY_VERIFY((rule = sort->findChild<RuleEntry*>("sortRule")) != nullptr);
        QCOMPARE(rule->text(), QString("EXTRACT(MONTH FROM insured_until) * 100 + EXTRACT(DAY FROM insured_until)"));
        QVERIFY(rule->message().startsWith("an exact"));
        QTRY_COMPARE(document().design().sort.size(), std::size_t{1});
        const auto isByDay = [&] {
            int last = -1;
            for (std::int64_t n = 0; n < lines(); ++n) {
                const Value value = grid().recordAt(n).value("insured_until");
                if (isEmpty(value)) return n > 0;  // empties last
                const CivilDate date = civilFromDays(std::get<Date>(value).days);
                const int key = static_cast<int>(date.month * 100 + date.day);
                if (key < last) return false;
                last = key;
            }
            return true;
        };
        QTRY_VERIFY(isByDay());
        // A slip is said under the word, and the order stays.
        rule->edit().setFocus();
        rule->edit().moveCursor(QTextCursor::End);
        QTest::keyClicks(&rule->edit(), " + hous");
        QVERIFY2(rule->message().contains("no column hous"), qPrintable(rule->message()));
        QVERIFY(isByDay());
        for (int i = 0; i < 7; ++i) QTest::keyClick(&rule->edit(), Qt::Key_Backspace);
        QVERIFY(rule->program() != nullptr);
        QTest::keyClick(&rule->edit(), Qt::Key_Escape);
        build().editors().close();

        // Filter row.
        QVERIFY(grid().filters().focus("length"));
        auto* row = grid().findChild<FilterRow*>();
        QTest::keyClicks(row->entry(), "> 8");
        QTRY_VERIFY(lines() < all);
        const std::int64_t longOnes = lines();
        QCOMPARE(document().undoLabel(), QString("Filter Length"));
        // Pick list.
        grid().filters().openPickList("kind");
        PickPopup* pick = nullptr;
        QTRY_VERIFY((pick = grid().findChild<PickPopup*>()) && pick->rows().list());
        pick->rows().setFocus();
        QTest::keyClick(&pick->rows(), Qt::Key_Space);
        QTRY_VERIFY(lines() < longOnes);
        QTest::keyClick(pick->searchEntry(), Qt::Key_Escape);
        const std::int64_t picked = lines();
        // Own operator, typed.
        QVERIFY(grid().filters().focus("id"));
        QTest::keyClicks(row->entry(), "is even");
        QTRY_VERIFY(lines() < picked);
        const std::int64_t even = lines();
        // Builder: the tree and the rule say the same.
        clickStation(Stage::Filter);
        auto* filter = window_->findChild<FilterPopover*>();
        QVERIFY(filter);
        QVERIFY2(filter->rule().text().contains("is_even(id)"), qPrintable(filter->rule().text()));
        QPushButton* addCondition = nullptr;
        for (QPushButton* button : filter->findChildren<QPushButton*>())
            if (button->text() == "+ Condition") addCondition = button;
        QVERIFY(addCondition);
        addCondition->click();
        QTRY_COMPARE(document().design().filter.size(), std::size_t{4});
        filter->rule().setFocus();
        filter->rule().edit().setPlainText("length > 8 AND NOT (kind = 'Ketch' OR insured_until IS NULL)");
        QTRY_COMPARE(document().design().filter.size(), std::size_t{2});
        QTRY_VERIFY(lines() > 0);
        QTRY_VERIFY(build().words().sentence().contains("none of: Kind is Ketch or Insured until is empty"));
        // Bypassed for a moment.
        QCheckBox* bypass = nullptr;
        for (QCheckBox* box : filter->findChildren<QCheckBox*>()) bypass = box;
        bypass->setChecked(true);
        QTRY_COMPARE(lines(), all);
        bypass->setChecked(false);
        QTRY_VERIFY(lines() < all);
        build().editors().close();
        // Find.
        QTest::keyClick(window_.get(), Qt::Key_F, Qt::ControlModifier);
        auto* find = grid().findChild<FindBar*>();
        QVERIFY(find);
        const QString name = grid().recordAt(3).text("name");
        QTest::keyClicks(find->entry(), "name: " + name);
        QTRY_VERIFY(find->count().contains(" of "));
        QCOMPARE(grid().selection().current().text("name"), name);
        QTest::keyClick(find->entry(), Qt::Key_Escape);

        // Saved and opened again it is the same.
        const QString path = folder_->filePath("vessels.jrow");
        QVERIFY(document().save(path).ok());
        const auto read = readDesignFile(path.toStdString());
        QVERIFY(read.ok());
        QVERIFY(read->findings.empty());
        QCOMPARE(read->design.filter.size(), document().design().filter.size());
        QVERIFY(read->design.sort == document().design().sort);
        // All of it undone.
        int steps = 0;
        while (!document().undoLabel().isEmpty() && ++steps < 60) document().undo();
        QVERIFY2(steps >= 5 && steps < 40, qPrintable(QString::number(steps)));
        QVERIFY(document().design() == opened);
        QTRY_COMPARE(lines(), all);
        Q_UNUSED(even);
    }

    void fittingsShowTheRow() {
        build().selectColumn(std::nullopt);
        QCheckBox* shown = nullptr;
        for (QCheckBox* box : build().findChildren<QCheckBox*>())
            if (box->text() == "Filter row under the headings") shown = box;
        QVERIFY(shown && !shown->isChecked());
        shown->click();
        QVERIFY(document().design().grid.filterRow);
        QTRY_VERIFY(!grid().places().filter("kind").isEmpty());
        document().undo();
        QTRY_VERIFY(grid().places().filter("kind").isEmpty());
        QVERIFY(!shown->isChecked());
    }

    void stationsSayWhatTheyDo() {
        QVERIFY(grid().filters().focus("kind"));
        QTest::keyClicks(grid().findChild<FilterRow*>()->entry(), "ketch");
        QTRY_VERIFY(build().rowline().accessibleDescription().contains("Filter: Kind is Ketch"));
        clickStation(Stage::Sort);
        auto* sort = window_->findChild<SortPopover*>();
        QVERIFY(sort);
        QTest::keyClick(sort, Qt::Key_Escape);
    }
};

QTEST_MAIN(FilteringTest)
#include "tst_filtering.moc"
