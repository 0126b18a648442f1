// SPDX-License-Identifier: MIT
// What a design computes and names, by mouse and keys on the boatyard: computed columns, parameters above the grid and
// in a SELECT, own operators, named sort rules, records that edits have moved; saved, opened again, and taken back.
#include <QtTest>

#include <QComboBox>
#include <QLabel>
#include <QLineEdit>
#include <QPlainTextEdit>
#include <QPushButton>

#include "core/design/design_file.h"
#include "core/session/session.h"
#include "demo/boatyard.h"
#include "grid/api/parameter_bar.h"
#include "grid/select/order_chip.h"
#include "tests/workbench/open_window.h"
#include "workbench/app/look.h"
#include "workbench/app/main_window.h"
#include "workbench/build/build_page.h"
#include "workbench/build/columns_outline.h"
#include "workbench/fittings/fittings.h"
#include "workbench/popovers/computed_popover.h"
#include "workbench/popovers/named_popover.h"
#include "workbench/popovers/sort_popover.h"
#include "workbench/rowline/rowline_bar.h"
#include "workbench/rules/rule_entry.h"
#include "workbench/rules/rule_preview.h"

using namespace jollyrow;

class NamedRulesTest : public QObject {
    Q_OBJECT
    std::unique_ptr<QTemporaryDir> folder_;
    std::unique_ptr<MainWindow> window_;
    QString database_, design_;

    BuildPage& build() { return *window_->findChild<BuildPage*>(); }
    Grid& grid() { return build().grid(); }
    Document& document() { return window_->document(); }
    std::int64_t lines() { return grid().lineCount(); }
    template <class Popover>
    Popover* popover() {
        return window_->findChild<Popover*>();
    }
    static QPushButton* button(QWidget& in, const QString& text) {
        for (QPushButton* one : in.findChildren<QPushButton*>())
            if (one->text() == text && one->isVisibleTo(&in)) return one;
        return nullptr;
    }
    static QLineEdit* entry(QWidget& in, const QString& name, int nth = 0) {
        for (QLineEdit* one : in.findChildren<QLineEdit*>())
            if (one->accessibleName() == name && one->isVisibleTo(&in) && nth-- == 0) return one;
        return nullptr;
    }
    static void retype(QLineEdit* entry, const QString& text) {
        entry->setFocus();
        entry->selectAll();
        QTest::keyClicks(entry, text);
    }
    void undoAll(const Design& to) {
        for (int i = 0; i < 60 && !document().undoLabel().isEmpty(); ++i) document().undo();
        QVERIFY(document().design() == to);
    }

  private Q_SLOTS:
    void initTestCase() { test::prepareWorkbench(); }
    void init() {
        folder_ = std::make_unique<QTemporaryDir>();
        database_ = folder_->filePath("kelpie-quay.db");
        QVERIFY(demo::makeBoatyard(database_.toStdString(), {500, 3}, {}).ok());
        design_ = folder_->filePath("yard.jrow");
        QVERIFY(writeDesignFile(design_.toStdString(), demo::yardJobsDesign("kelpie-quay.db")).ok());
        window_ = test::shownWindow();
        QVERIFY(window_);
        window_->openPath(design_);
        QTRY_COMPARE(lines(), 500);
        QTRY_VERIFY(!grid().isLoading());
        window_->activateWindow();
    }
    void cleanup() { window_.reset(); }

    void aComputedColumnIsMadeUsedAndTakenBack() {
        const Design opened = document().design();
        build().selectColumn(QString("labour"));
        ColumnsOutline& outline = build().outline();
        QTest::mouseClick(outline.viewport(), Qt::LeftButton, {}, outline.addRowRect().center());
        auto* card = popover<ComputedPopover>();
        QVERIFY(card);
        retype(&card->heading(), "Whole cost");
        QCOMPARE(card->name().text(), QString("whole_cost"));
        QPlainTextEdit* rule = &card->rule().edit();
        rule->setFocus();
        QTest::keyClicks(rule, "labour + pars");
        QVERIFY2(card->rule().message().contains("parts"), qPrintable(card->rule().message()));  // the near name
        QVERIFY(!document().design().column("whole_cost") ||
                document().design().column("whole_cost")->rule == "labour");
        for (int i = 0; i < 4; ++i) QTest::keyClick(rule, Qt::Key_Backspace);
        // The list of completions takes Return, as it stands in front.
        QTest::keyClicks(rule, "part");
        QTRY_VERIFY(QApplication::activePopupWidget());
        QTest::keyClick(QApplication::activePopupWidget(), Qt::Key_Return);
        QTRY_VERIFY(!QApplication::activePopupWidget());
        QCOMPARE(card->rule().text(), QString("labour + parts"));
        QTest::keyClicks(rule, " ");
        QTest::keyClick(rule, Qt::Key_Backspace);
        QTRY_VERIFY(document().design().column("whole_cost"));
        QCOMPARE(document().design().column("whole_cost")->rule, std::string("labour + parts"));
        QVERIFY(!card->preview().valueAt(0).isEmpty());
        QTRY_VERIFY(!isEmpty(grid().recordAt(0).value("whole_cost")));
        const auto costOf = [&](std::int64_t line, const char* field) {
            return std::get<Decimal>(grid().recordAt(line).value(field));
        };
        for (std::int64_t line = 0; line < 50; ++line)
            QCOMPARE(costOf(line, "whole_cost").mantissa,
                     costOf(line, "labour").mantissa + costOf(line, "parts").mantissa);
        QTest::mouseClick(button(*card, "Done"), Qt::LeftButton);
        QTRY_VERIFY(!popover<ComputedPopover>());
        QCOMPARE(*build().selectedColumn(), QString("whole_cost"));
        QVERIFY(!grid().places().heading("whole_cost").isEmpty());

        // It filters and sorts, and follows an edit; nobody can type into it.
        QVERIFY(grid().filters().setEntry("whole_cost", "> 500").ok());
        document().apply(grid().design(), "Filter");
        QTRY_VERIFY(lines() < 500 && lines() > 10);
        for (std::int64_t line = 0; line < lines(); ++line) QVERIFY(costOf(line, "whole_cost").mantissa > 50000);
        build().sortSelected(Direction::Descending);
        QTRY_VERIFY(costOf(0, "whole_cost").mantissa >= costOf(1, "whole_cost").mantissa &&
                    costOf(1, "whole_cost").mantissa >= costOf(2, "whole_cost").mantissa);
        const Record first = grid().recordAt(0);
        grid().records().setValue(first, "parts", Decimal{0, 2});
        QCOMPARE(costOf(0, "whole_cost").mantissa, costOf(0, "labour").mantissa);
        QVERIFY(grid().session().view().outOfPlace().contains(first.row()));
        auto* chip = grid().findChild<OrderChip*>();
        QVERIFY(chip && chip->isVisible() && chip->text().contains("1 record"));
        QTRY_COMPARE(grid().records().unsaved(), std::size_t{0});
        QTest::mouseClick(chip, Qt::LeftButton);
        QTRY_VERIFY(grid().recordAt(0).row() != first.row());
        QVERIFY(!chip->isVisible());
        const auto place = [&] {
            for (int i = 0; i < static_cast<int>(grid().session().plan().columns.size()); ++i)
                if (grid().session().plan().columns[static_cast<std::size_t>(i)].design.field == "whole_cost") return i;
            return -1;
        };
        grid().selection().setCurrentCell(0, place());
        QVERIFY(!grid().records().editCurrentCell());

        // Its rule is changed from the Fittings; a circle is refused in words.
        QPushButton* changeRule = button(build().fittings(), "Change the rule…");
        QVERIFY(changeRule);
        QTest::mouseClick(changeRule, Qt::LeftButton);
        QTRY_VERIFY(popover<ComputedPopover>());
        card = popover<ComputedPopover>();
        QTRY_VERIFY(card->rule().edit().hasFocus());
        card->rule().edit().selectAll();
        QTest::keyClicks(&card->rule().edit(), "whole_cost * 2");
        QVERIFY2(card->rule().message().contains("whole_cost"), qPrintable(card->rule().message()));
        card->rule().edit().selectAll();
        QTest::keyClicks(&card->rule().edit(), "vessel.length * hours");
        QTRY_COMPARE(document().design().column("whole_cost")->rule, std::string("vessel.length * hours"));
        QTRY_VERIFY(grid().session().schema().find("vessel.length") && !grid().isLoading());
        QTRY_VERIFY(lines() > 0 && !isEmpty(grid().recordAt(0).value("whole_cost")));
        build().editors().close();
        QVERIFY(document().save(design_).ok());
        const auto read = readDesignFile(design_.toStdString());
        QVERIFY(read.ok() && read->findings.empty() && read->design == document().design());
        undoAll(opened);
        QTRY_COMPARE(lines(), 500);
    }

    void parametersStandAboveTheGrid() {
        const Design opened = document().design();
        build().editors().openParameters();
        auto* card = popover<ParametersPopover>();
        QVERIFY(card);
        QTest::mouseClick(card->findChild<QPushButton*>("addParameter"), Qt::LeftButton);
        QTRY_COMPARE(document().design().parameters.size(), std::size_t{1});
        QTRY_VERIFY(entry(*card, "Heading"));
        retype(entry(*card, "Heading"), "Hours from");
        retype(entry(*card, "Name"), "least");
        QComboBox* type = nullptr;
        for (QComboBox* box : card->findChildren<QComboBox*>())
            if (box->accessibleName() == "Type" && box->isVisibleTo(card)) type = box;
        type->setCurrentIndex(2);
        Q_EMIT type->activated(2);
        retype(entry(*card, "Value at opening"), "x");
        QVERIFY(document().design().parameters[0].value.empty());
        QTest::keyClick(entry(*card, "Value at opening"), Qt::Key_Backspace);
        const ParameterDesign expected{"least", "Hours from", Type::Decimal, ""};
        QVERIFY(document().design().parameters[0] == expected);
        build().editors().close();
        Design filtered = document().design();
        filtered.filter = {{"hours >= :least", "", "", true}};
        document().apply(filtered, "Filter");
        ParameterBar& bar = build().parameters();
        QTRY_VERIFY(bar.isVisible() && bar.entry("least"));
        QCOMPARE(lines(), 500);
        retype(bar.entry("least"), "12");
        QTRY_VERIFY(lines() < 500);
        const std::int64_t some = lines();
        QTest::keyClicks(bar.entry("least"), "x");
        QVERIFY(!bar.message().isEmpty());
        QTest::qWait(60);
        QCOMPARE(lines(), some);  // the last good one stays
        QTest::keyClick(bar.entry("least"), Qt::Key_Backspace);
        QVERIFY(bar.message().isEmpty());
        // Called otherwise, letter by letter, it is what the condition asks for still.
        build().editors().openParameters();
        retype(entry(*popover<ParametersPopover>(), "Name"), "fewest");
        QCOMPARE(document().design().parameters[0].name, std::string("fewest"));
        QCOMPARE(document().design().filter[0].rule, std::string("hours >= :fewest"));
        build().editors().close();
        QTRY_VERIFY(bar.entry("fewest"));
        retype(bar.entry("fewest"), "12");
        QTRY_COMPARE(lines(), some);
        QTest::mouseClick(button(bar, "Clear"), Qt::LeftButton);
        QTRY_COMPARE(lines(), 500);
        undoAll(opened);
        QTRY_VERIFY(!bar.isVisible());
    }

    /// A SELECT with parameters: they are found with their types, bound when typed, and lifted when empty.
    void aBoundSelectHasParameters() {
        QVERIFY(document()
                    .openDatabase(database_, {},
                                  "SELECT v.name, j.* FROM jobs j JOIN vessels v ON v.id = j.vessel "
                                  "WHERE j.due_on >= :since AND v.name LIKE :vessel || '%'")
                    .ok());
        QTRY_COMPARE(lines(), 500);
        QCOMPARE(document().design().parameters.size(), std::size_t{2});
        QCOMPARE(document().design().parameters[0].type, Type::Date);
        ParameterBar& bar = build().parameters();
        QTRY_VERIFY(bar.isVisible());
        const QString name = grid().recordAt(7).plain("name");
        retype(bar.entry("vessel"), name);
        QTRY_VERIFY(lines() > 0 && lines() < 500);
        QTRY_VERIFY(!grid().isLoading());
        for (std::int64_t line = 0; line < lines(); ++line)
            QVERIFY(grid().recordAt(line).plain("name").startsWith(name, Qt::CaseInsensitive));
        // Called otherwise, the SELECT asks for it by its new name.
        build().editors().openParameters();
        QLineEdit* second = nullptr;
        for (QLineEdit* one : popover<ParametersPopover>()->findChildren<QLineEdit*>())
            if (one->accessibleName() == "Name" && one->text() == "vessel") second = one;
        QVERIFY(second);
        retype(second, "boat");
        build().editors().close();
        QVERIFY(document().design().source.query.find(":boat ||") != std::string::npos);
        QTRY_VERIFY(bar.entry("boat"));
        retype(bar.entry("boat"), name);
        QTRY_VERIFY(!grid().isLoading() && lines() > 0 && lines() < 500);
        for (std::int64_t line = 0; line < lines(); ++line)
            QVERIFY(grid().recordAt(line).plain("name").startsWith(name, Qt::CaseInsensitive));
        retype(bar.entry("boat"), "' OR 1=1 --");
        QTRY_COMPARE(lines(), 0);
        QTest::mouseClick(button(bar, "Clear"), Qt::LeftButton);
        QTRY_COMPARE(lines(), 500);
    }

    /// What a file says that no choice of ours does is not shown as another, nor changed by looking at it.
    void anOperatorForOtherTypesIsNotSaidToBeForAll() {
        const Design opened = document().design();
        Design next = opened;
        next.operators = {
            {"is_even", "is even", {}, "MOD(value, 2) = 0", {Type::Integer}},
            {"is_set", "is set", {}, "value IS NOT NULL", {}},
            {"is_late", "is late", {}, "value < CURRENT_DATE", {Type::Date, Type::Timestamp, Type::Instant}}};
        document().apply(next, "Operators");
        build().editors().openOperators();
        QStringList said;
        for (const QComboBox* box : popover<OperatorsPopover>()->findChildren<QComboBox*>())
            if (box->accessibleName() == "Offered for")
                said << (box->currentIndex() < 0 ? box->placeholderText() : box->currentText());
        QCOMPARE(said, (QStringList{"other types", "all columns", "dates"}));
        build().editors().close();
        QVERIFY(document().design() == next);
        undoAll(opened);
    }

    void ownOperatorsAndSortRules() {
        const Design opened = document().design();
        build().editors().openOperators();
        auto* card = popover<OperatorsPopover>();
        QTest::mouseClick(card->findChild<QPushButton*>("addOperator"), Qt::LeftButton);
        QTRY_COMPARE(document().design().operators.size(), std::size_t{1});
        QTRY_VERIFY(entry(*card, "Words"));
        retype(entry(*card, "Words"), "is close to");
        retype(entry(*card, "Further arguments"), "target, within");
        auto* rule = card->findChildren<RuleEntry*>().back();
        rule->edit().selectAll();
        QTest::keyClicks(&rule->edit(), "ABS(value - target) <= within");
        const OperatorDesign& made = document().design().operators[0];
        QCOMPARE(made.name, std::string("is_close_to"));
        QCOMPARE(made.rule, std::string("ABS(value - target) <= within"));
        build().editors().close();
        Design filtered = document().design();
        filtered.filter = {{"is_close_to(hours, 10, 2)", "", "", true}};
        document().apply(filtered, "Filter");
        QTRY_VERIFY(lines() > 0 && lines() < 500);
        for (std::int64_t line = 0; line < lines(); ++line) {
            const auto hours = std::get<Decimal>(grid().recordAt(line).value("hours")).mantissa;
            QVERIFY(hours >= 800 && hours <= 1200);
        }

        Design sorted = document().design();
        sorted.sort = {{.field = {}, .rule = "CHAR_LENGTH(work)"}, {"number", Direction::Descending, Empties::Last}};
        document().apply(sorted, "Sort");
        build().editors().openStation(Stage::Sort);
        auto* sort = popover<SortPopover>();
        auto* name = sort->findChild<QLineEdit*>("ruleName");
        QVERIFY(name);
        retype(name, "length of work");
        QTest::keyClick(name, Qt::Key_Return);
        QTRY_COMPARE(document().design().sortRules.size(), std::size_t{1});
        QCOMPARE(document().design().sort.size(), std::size_t{1});
        QCOMPARE(document().design().sort[0].by, std::string("length of work"));
        build().editors().close();
        document().apply(
            [&] {
                Design next = document().design();
                next.sort.clear();
                return next;
            }(),
            "No sort");
        build().selectColumn(QString("status"));
        QComboBox* by = nullptr;
        for (QComboBox* box : build().fittings().findChildren<QComboBox*>())
            if (box->accessibleName() == "Sorts by" && box->isVisibleTo(&build().fittings())) by = box;
        QVERIFY(by);
        by->setCurrentIndex(1);
        Q_EMIT by->activated(1);
        QCOMPARE(document().design().column("status")->sortBy, std::string("length of work"));
        QTest::mouseClick(grid().viewport(), Qt::LeftButton, {}, grid().places().heading("status").center());
        const auto length = [&](std::int64_t line) { return grid().recordAt(line).plain("work").size(); };
        QTRY_VERIFY([&] {
            for (std::int64_t line = 1; line < lines(); ++line)
                if (length(line - 1) > length(line)) return false;
            return lines() > 5;
        }());
        undoAll(opened);
    }
};

QTEST_MAIN(NamedRulesTest)
#include "tst_named_rules.moc"
