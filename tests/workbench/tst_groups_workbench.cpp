// SPDX-License-Identifier: MIT
// Recorded by mouse and keys in the workbench: headings dropped on Group and Summaries, levels reordered and removed in
// the editor, cut points typed and dragged, a figure explained and its record gone to; all kept in the file, all
// undone.
#include <QAbstractItemView>
#include <QCheckBox>
#include <QComboBox>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QSpinBox>
#include <QWheelEvent>

#include "core/design/design_file.h"
#include "core/rules/conversion.h"
#include "demo/boatyard.h"
#include "grid/api/grid.h"
#include "tests/workbench/open_window.h"
#include "workbench/build/build_page.h"
#include "workbench/controls/order_chips.h"
#include "workbench/popovers/cut_histogram.h"
#include "workbench/popovers/figure_popover.h"
#include "workbench/popovers/group_popover.h"
#include "workbench/popovers/summary_popover.h"
#include "workbench/popovers/summary_table_popover.h"
#include "workbench/rowline/rowline_bar.h"

using namespace jollyrow;

class GroupsWorkbenchTest : public QObject {
    Q_OBJECT
    QTemporaryDir folder_;
    QString database_, design_;
    std::unique_ptr<MainWindow> window_;

    Grid& grid() { return window_->buildPage().grid(); }
    RowlineBar& rowline() { return window_->buildPage().rowline(); }
    const Design& design() { return window_->document().design(); }
    bool until(const std::function<bool()>& condition) { return QTest::qWaitFor(condition, 8000); }
    /// A heading dragged up to a station and let go there.
    void drop(const char* field, Stage stage) {
        QWidget* viewport = grid().viewport();
        const QPoint from = grid().places().heading(field).center();
        const QPoint to = viewport->mapFromGlobal(rowline().mapToGlobal(rowline().stationRect(stage).center()));
        QTest::mousePress(viewport, Qt::LeftButton, {}, from);
        for (int step = 1; step <= 8; ++step) QTest::mouseMove(viewport, from + (to - from) * step / 8);
        QTest::mouseRelease(viewport, Qt::LeftButton, {}, to);
    }
    void clickStation(Stage stage) {
        QTest::qWait(20);  // what was closed just now counts as open until the next turn
        QTest::mouseClick(&rowline(), Qt::LeftButton, {}, rowline().stationRect(stage).center());
    }
    template <class Widget>
    Widget* within(QWidget* popover, const char* name) {
        for (Widget* widget : popover->findChildren<Widget*>(QString::fromLatin1(name)))
            if (widget->isVisible()) return widget;  // one being replaced is hidden already
        return nullptr;
    }
    void choose(QComboBox* box, const QString& words) {
        const int at = box->findText(words);
        QVERIFY2(at >= 0, qPrintable(words));
        box->setCurrentIndex(at);
        Q_EMIT box->activated(at);
        QCoreApplication::processEvents();
    }
    int groupCount(int level) {
        const auto& grouped = grid().snapshot()->grouped;
        if (!grouped || grouped->tree().levels() <= level) return -1;
        const auto& begin = grouped->tree().levelBegin;
        return static_cast<int>(begin[static_cast<std::size_t>(level) + 1] - begin[static_cast<std::size_t>(level)]);
    }

  private Q_SLOTS:
    void initTestCase() {
        test::prepareWorkbench();
        database_ = folder_.filePath("kelpie-quay.db");
        design_ = folder_.filePath("yard-jobs.jrow");
        demo::BoatyardSize size;
        size.jobs = 800;
        QVERIFY(demo::makeBoatyard(database_.toStdString(), size, {}).ok());
        QVERIFY(writeDesignFile(design_.toStdString(), demo::yardJobsDesign("kelpie-quay.db")).ok());
        window_ = test::shownWindow();
        QVERIFY(window_);
        window_->openPath(design_);
        QVERIFY(until([this] { return !grid().isLoading() && grid().lineCount() == 800; }));
    }

    void headingsAreDroppedOnTheStations() {
        drop("status", Stage::Group);
        QVERIFY(until([this] { return groupCount(0) == 5; }));
        drop("due_on", Stage::Group);
        QVERIFY(until([this] { return groupCount(1) > 5; }));
        QCOMPARE(design().groups[1].by, GroupBy::Month);  // what suits a date
        drop("hours", Stage::Summaries);
        drop("labour", Stage::Summaries);
        drop("work", Stage::Summaries);
        QCOMPARE(design().summaries.size(), std::size_t{3});
        QCOMPARE(design().summaries[0].show, SummaryShow::Sum);
        QCOMPARE(design().summaries[2].show, SummaryShow::Count);
        QVERIFY(until([this] { return !isEmpty(grid().groups().figure("hours_sum")); }));
        QCOMPARE(window_->document().undoLabel(), QString("Sum up Work"));
    }

    void levelsAreReorderedAndRemovedInTheEditor() {
        clickStation(Stage::Group);
        auto* popover = window_->findChild<GroupPopover*>();
        QVERIFY(popover && popover->isVisible());
        // A chip is dragged before the other, put back by keys, and dragged again; its card is the one shown.
        const auto dragSecond = [&] {
            auto* chips = within<OrderChips>(popover, "levels");
            QWidget* chip = chips->childAt(chips->chipRect(1).center());
            const QPoint from = chip->rect().center() - QPoint(10, 0);
            const QPoint to = chip->mapFrom(chips, chips->chipRect(0).center() - QPoint(30, 0));
            QTest::mousePress(chip, Qt::LeftButton, {}, from);
            for (int step = 1; step <= 5; ++step) QTest::mouseMove(chip, from + (to - from) * step / 5);
            QTest::mouseRelease(chip, Qt::LeftButton, {}, to);
        };
        dragSecond();
        QVERIFY(until([this] { return design().groups[0].key.field == "due_on"; }));
        QVERIFY(until([] {
            return QApplication::focusWidget() && QApplication::focusWidget()->accessibleName() == "month of Due";
        }));
        QTest::keyClick(QApplication::focusWidget(), Qt::Key_Right, Qt::AltModifier);
        QVERIFY(until([this] { return design().groups[1].key.field == "due_on"; }));
        QVERIFY(until([&] { return within<OrderChips>(popover, "levels")->chipRect(1).width() > 0; }));
        dragSecond();
        QVERIFY(until([this] { return design().groups[0].key.field == "due_on"; }));
        QVERIFY(until([&] { return within<QComboBox>(popover, "groupBy")->currentText() == "month"; }));
        choose(within<QComboBox>(popover, "groupBy"), "year");
        QVERIFY(until([this] { return design().groups[0].by == GroupBy::Year && groupCount(0) == 5; }));
        QVERIFY(until([&] { return within<QComboBox>(popover, "groupBy")->currentText() == "year"; }));
        // Largest sum first.
        choose(within<QComboBox>(popover, "groupOrder"), "by sum of Hours");
        QVERIFY(until([this] { return design().groups[0].orderBy == "hours_sum"; }));
        QVERIFY(until([this] {
            const auto& groups = grid().snapshot()->groups;
            if (!groups || groups->tree->levels() != 2) return false;
            for (std::uint32_t n = 0; n + 1 < groups->tree->levelBegin[1]; ++n)
                if (compareValues(groups->figure(0, n).value, groups->figure(0, n + 1).value) < 0) return false;
            return true;
        }));
        auto* caption = within<QLineEdit>(popover, "caption");
        caption->setFocus();
        QTest::keyClicks(caption, "{heading} {value}: {count, plural, one{# job} other{# jobs}}");
        QVERIFY(until([this] { return grid().groups().at(0) && grid().groups().at(0)->caption.contains("jobs"); }));
        auto* chips = within<OrderChips>(popover, "levels");
        chips->focusChip(0);
        QTest::keyClick(QApplication::focusWidget(), Qt::Key_Delete);
        QVERIFY(until([this] { return design().groups.size() == 1 && design().groups[0].key.field == "status"; }));
        QTest::keyClick(popover, Qt::Key_Escape);
        QVERIFY(!window_->findChild<GroupPopover*>() || !window_->findChild<GroupPopover*>()->isVisible());
    }

    /// By keys the list opens before anything is chosen; the wheel chooses nothing; the focus stays where one works.
    void levelsArePickedByKeys() {
        clickStation(Stage::Group);
        auto* popover = window_->findChild<GroupPopover*>();
        auto* add = within<QComboBox>(popover, "addGroup");
        QVERIFY(add && add->currentIndex() < 0);
        const Design before = design();
        add->setFocus();
        QWheelEvent wheel(QPointF(5, 5), add->mapToGlobal(QPointF(5, 5)), {}, QPoint(0, -120), Qt::NoButton, {},
                          Qt::NoScrollPhase, false);
        QApplication::sendEvent(add, &wheel);
        QTest::keyClick(add, Qt::Key_Down);
        QVERIFY(add->view()->isVisible() && design() == before);
        const int work = add->findText("Work");
        QTest::keyClick(add->view(), Qt::Key_Home);
        for (int i = 0; i < work; ++i) QTest::keyClick(add->view(), Qt::Key_Down);
        QTest::keyClick(add->view(), Qt::Key_Return);
        QVERIFY(until([&] { return design().groups.size() == before.groups.size() + 1; }));
        window_->activateWindow();  // the offscreen platform does not, when a list closes
        QCOMPARE(design().groups.back().key.field, std::string("work"));
        QVERIFY(until([&] { return within<QComboBox>(popover, "addGroup") != add; }));
        add = within<QComboBox>(popover, "addGroup");  // texts and dates have other parts to group by
        QVERIFY(add->findText("Due") >= 0 && add->findText("Work") >= 0 && add->findText("Paid") >= 0);
        Design paid = design();
        addGroup(paid, newGroup(paid, grid().session().schema(), "paid"));
        window_->document().apply(paid, QStringLiteral("Paid"));
        QVERIFY(until([&] { return within<QComboBox>(popover, "addGroup")->findText("Paid") < 0; }));
        window_->document().undo();
        QVERIFY(until([&] { return within<QComboBox>(popover, "addGroup")->findText("Paid") >= 0; }));
        QVERIFY(until([this] { return window_->focusWidget() && window_->focusWidget()->accessibleName() == "Work"; }));
        choose(within<QComboBox>(popover, "groupBy"), "first letters");
        within<QComboBox>(popover, "groupBy")->setFocus();
        QTest::keyClick(within<QComboBox>(popover, "groupBy"), Qt::Key_Up);
        QVERIFY(until([&] { return design().groups.back().by == GroupBy::EachValue; }));
        QVERIFY(until([&] { return window_->focusWidget() == within<QComboBox>(popover, "groupBy"); }));
        QTest::keyClick(popover, Qt::Key_Escape);
        while (!(design() == before) && !window_->document().undoLabel().isEmpty()) window_->document().undo();
        QVERIFY(design() == before);
    }

    /// The look of a level's lines and footers, typed and picked; half a colour changes nothing.
    void linesAreGivenALook() {
        clickStation(Stage::Group);
        auto* popover = window_->findChild<GroupPopover*>();
        const Design before = design();
        auto* colour = within<QLineEdit>(popover, "groupColour");
        colour->setFocus();
        QTest::keyClicks(colour, "#d3e9e");
        QCOMPARE(design().groups[0].colour, std::string());
        QTest::keyClicks(colour, "6");
        QVERIFY(until([this] { return design().groups[0].colour == "#d3e9e6"; }));
        choose(within<QComboBox>(popover, "groupWeight"), "regular");
        QCOMPARE(design().groups[0].weight, LineWeight::Regular);
        for (QCheckBox* box : popover->findChildren<QCheckBox*>())
            if (box->text() == "ends with a footer" && box->isVisible() && !box->isChecked()) box->click();
        QVERIFY(until([&] { return within<QLineEdit>(popover, "footerColour") != nullptr; }));
        QTest::keyClicks(within<QLineEdit>(popover, "footerColour"), "#123456");
        QTest::keyClicks(within<QLineEdit>(popover, "footerTextColour"), "#ffeedd");
        QTest::keyClicks(within<QLineEdit>(popover, "groupTextColour"), "#332211");
        auto* height = within<QSpinBox>(popover, "footerHeight");
        height->setFocus();
        height->selectAll();
        QTest::keyClicks(height, "51");
        QTest::keyClick(height, Qt::Key_Return);
        QVERIFY(until([this] { return design().groups[0].footerHeight == 51; }));
        QCOMPARE(design().groups[0].height, 0);
        choose(within<QComboBox>(popover, "footerWeight"), "bold");
        QVERIFY(until([this] { return design().groups[0].footerColour == "#123456"; }));
        QCOMPARE(design().groups[0].footerTextColour, std::string("#ffeedd"));
        QCOMPARE(design().groups[0].textColour, std::string("#332211"));
        QCOMPARE(design().groups[0].footerWeight, LineWeight::Bold);
        within<QLineEdit>(popover, "groupColour")->clear();
        QVERIFY(until([this] { return design().groups[0].colour.empty(); }));
        QTest::keyClick(popover, Qt::Key_Escape);
        while (!(design() == before) && !window_->document().undoLabel().isEmpty()) window_->document().undo();
        QVERIFY(design() == before);
    }

    /// Chips read from either side: by mouse and keys a chip goes where one sees it go, and its cross ends its name.
    void chipsInBothDirections_data() {
        QTest::addColumn<Qt::LayoutDirection>("direction");
        QTest::newRow("from the left") << Qt::LeftToRight;
        QTest::newRow("from the right") << Qt::RightToLeft;
    }
    void chipsInBothDirections() {
        QFETCH(Qt::LayoutDirection, direction);
        const int onward = direction == Qt::LeftToRight ? 1 : -1;
        OrderChips chips({"One", "Two", "Three"}, 0, {"move", "take out"}, nullptr);
        chips.setLayoutDirection(direction);
        chips.resize(500, 40);
        chips.show();
        QVERIFY(QTest::qWaitForWindowExposed(&chips));
        QVERIFY((chips.chipRect(1).center().x() - chips.chipRect(0).center().x()) * onward > 0);
        QSignalSpy moved(&chips, &OrderChips::moved), takenOut(&chips, &OrderChips::takenOut);
        // Dragged beyond the third, before the first, and to where it is.
        for (const auto& [past, to] : {std::pair{2, 2}, {0, 0}, {1, 1}}) {
            QWidget* chip = chips.childAt(chips.chipRect(1).center());
            const int beyond = past == 1 ? 0 : (past == 2 ? 1 : -1) * onward * chips.chipRect(past).width() / 3;
            const QPoint goal = chip->mapFrom(&chips, chips.chipRect(past).center() + QPoint(beyond, 0));
            QTest::mousePress(chip, Qt::LeftButton, {}, chip->rect().center());
            for (int step = 1; step <= 4; ++step)
                QTest::mouseMove(chip, chip->rect().center() + (goal - chip->rect().center()) * step / 4);
            QTest::mouseRelease(chip, Qt::LeftButton, {}, goal);
            QCOMPARE(moved.count(), past == 1 ? 0 : 1);
            if (past != 1) QCOMPARE(moved.takeFirst(), (QVariantList{1, to}));
        }
        QWidget* second = chips.childAt(chips.chipRect(1).center());
        QTest::keyClick(second, Qt::Key_Right, Qt::AltModifier);
        QTest::keyClick(second, Qt::Key_Left, Qt::AltModifier);
        QCOMPARE(moved.takeFirst(), (QVariantList{1, 1 + onward}));
        QCOMPARE(moved.takeFirst(), (QVariantList{1, 1 - onward}));
        const int end = direction == Qt::LeftToRight ? second->width() - 8 : 8;
        QTest::mouseClick(second, Qt::LeftButton, {}, QPoint(end, second->height() / 2));
        QCOMPARE(takenOut.count(), 1);
        QCOMPARE(takenOut.takeFirst(), QVariantList{1});
        window_->activateWindow();
    }

    void cutPointsAreTypedAndDragged() {
        clickStation(Stage::Group);
        auto* popover = window_->findChild<GroupPopover*>();
        choose(within<QComboBox>(popover, "addGroup"), "Hours");
        QVERIFY(until([this] { return design().groups.size() == 2; }));
        QVERIFY(until([&] { return popover->findChildren<QComboBox*>("groupBy").size() >= 1; }));
        QComboBox* by = nullptr;
        for (QComboBox* box : popover->findChildren<QComboBox*>("groupBy"))
            if (box->isVisible() && box->findText("ranges") >= 0) by = box;
        QVERIFY(by);
        choose(by, "ranges");
        QVERIFY(until([this] { return !design().groups[1].cuts.empty(); }));  // round ones by themselves
        QVERIFY(until([&] { return within<QLineEdit>(popover, "cuts") != nullptr; }));
        auto* cuts = within<QLineEdit>(popover, "cuts");
        cuts->setFocus();
        cuts->selectAll();
        QTest::keyClicks(cuts, "0, 5, 2");
        auto* problem = popover->findChild<QLabel*>("problem");
        QVERIFY(until([&] { return problem && problem->isVisible() && problem->text().contains("Cut points rise"); }));
        cuts->selectAll();
        QTest::keyClicks(cuts, "5, 20");
        QVERIFY(until([&] { return !problem->isVisible() && groupCount(1) > 5; }));
        auto* histogram = within<CutHistogram>(popover, "histogram");
        QVERIFY(until([&] { return histogram->xOf(20) > histogram->xOf(5) + 20; }));
        const QPoint line(static_cast<int>(histogram->xOf(20)), 40), to(static_cast<int>(histogram->xOf(16)), 40);
        QTest::mousePress(histogram, Qt::LeftButton, {}, line);
        for (int step = 1; step <= 4; ++step) QTest::mouseMove(histogram, line + (to - line) * step / 4);
        QTest::mouseMove(histogram, to);
        QTest::mouseRelease(histogram, Qt::LeftButton, {}, to);
        QCOMPARE(design().groups[1].cuts.size(), std::size_t{2});
        QVERIFY2(std::abs(std::stod(design().groups[1].cuts[1]) - 16) < 1.0, design().groups[1].cuts[1].c_str());
        QTest::mouseClick(histogram, Qt::LeftButton, {}, QPoint(static_cast<int>(histogram->xOf(10)), 50));
        QCOMPARE(design().groups[1].cuts.size(), std::size_t{3});
        histogram->setFocus();
        QTest::keyClick(histogram, Qt::Key_Delete);
        QCOMPARE(design().groups[1].cuts.size(), std::size_t{2});
        QTest::keyClick(popover, Qt::Key_Escape);
    }

    void figuresAreChangedInTheEditor() {
        clickStation(Stage::Summaries);
        auto* popover = window_->findChild<SummaryPopover*>();
        QVERIFY(popover && popover->isVisible());
        choose(within<QComboBox>(popover, "addSummary"), "Amount");
        QVERIFY(until([this] { return design().summaries.size() == 4; }));
        QCOMPARE(design().summaries[3].show, SummaryShow::Mean);  // its sum is there already
        QVERIFY(until([&] { return within<QComboBox>(popover, "show") != nullptr; }));
        const auto visible = [&](const char* name) -> QComboBox* {
            for (QComboBox* box : popover->findChildren<QComboBox*>(QString::fromLatin1(name)))
                if (box->isVisible()) return box;
            return nullptr;
        };
        QVERIFY(until([&] { return visible("show") != nullptr; }));
        choose(visible("show"), "a rule");
        QVERIFY(until([this] { return design().summaries[3].rule == "AVG(labour)"; }));
        Design next = design();
        next.summaries[3].rule = "SUM(labour) / SUM(hours)";
        window_->document().apply(next, QStringLiteral("Rule"));
        QVERIFY(until([this] {
            const Value labour = grid().groups().figure("labour_sum"), hours = grid().groups().figure("hours_sum");
            const Value rate = grid().groups().figure(QString::fromStdString(design().summaries[3].name));
            const auto* a = std::get_if<Decimal>(&labour);
            const auto* b = std::get_if<Decimal>(&hours);
            std::string text;
            appendPlain(text, rate);
            return a && b && !text.empty() &&
                   std::abs(std::stod(text) - static_cast<double>(a->mantissa) / static_cast<double>(b->mantissa)) <
                       1e-6;
        }));
        QTest::keyClick(popover, Qt::Key_Escape);
    }

    /// Each station is bypassed for a moment by a click in its popover, and comes back; the design stays as it is.
    void stationsAreBypassed_data() {
        QTest::addColumn<int>("stage");
        QTest::newRow("sort") << int(Stage::Sort);
        QTest::newRow("group") << int(Stage::Group);
        QTest::newRow("summaries") << int(Stage::Summaries);
    }
    void stationsAreBypassed() {
        QFETCH(int, stage);
        const Design before = design();
        if (stage == int(Stage::Sort)) {
            Design sorted = design();
            sorted.sort = {{"number", Direction::Descending, Empties::Last}};
            window_->document().apply(sorted, QStringLiteral("Sorted"));
        }
        const Design now = design();
        clickStation(static_cast<Stage>(stage));
        const auto box = [this]() -> QCheckBox* {
            for (QCheckBox* one : window_->findChildren<QCheckBox*>())
                if (one->isVisible() && one->text() == "Bypass for a moment") return one;
            return nullptr;
        };
        QVERIFY(until([&] { return box() != nullptr; }));
        const auto works = [&] {
            const Snapshot& shown = *grid().snapshot();
            if (stage == int(Stage::Group)) return shown.grouped != nullptr;
            if (stage == int(Stage::Summaries)) return shown.groups && !shown.groups->figures.empty();
            std::int64_t last = -1;
            bool falls = shown.recordCount() > 2;
            const FieldIndex number = *grid().session().schema().find("number");
            // In the first group, when there are groups.
            const std::int64_t end = shown.grouped ? shown.grouped->tree().nodes.back().count : shown.recordCount();
            const std::int64_t begin = shown.grouped ? shown.grouped->tree().nodes.back().first : 0;
            for (std::int64_t i = begin; i < begin + end; ++i) {
                const auto n = std::get<std::int64_t>(shown.value(shown.record(i), number));
                falls = falls && (last < 0 || n < last);
                last = n;
            }
            return falls;
        };
        QVERIFY(until(works));
        QTest::mouseClick(box(), Qt::LeftButton, {}, QPoint(8, box()->height() / 2));
        QVERIFY(until([&] { return !works(); }));
        QVERIFY(grid().session().view().isBypassed(static_cast<Stage>(stage)));
        QVERIFY(design() == now);
        QTest::mouseClick(box(), Qt::LeftButton, {}, QPoint(8, box()->height() / 2));
        QVERIFY(until(works));
        QTest::keyClick(box(), Qt::Key_Escape);
        window_->document().apply(before, QStringLiteral("As it was"));
        QVERIFY(until([&] { return design() == before; }));
    }

    /// Whether case and accents tell texts apart, each by its own box, kept by the other.
    void caseAndAccentsOfASortKey() {
        const Design before = design();
        Design sorted = design();
        sorted.sort = {{"work", Direction::Ascending, Empties::Last}};
        window_->document().apply(sorted, QStringLiteral("By work"));
        clickStation(Stage::Sort);
        const auto click = [&](const char* name) {
            QCheckBox* box = nullptr;
            QVERIFY(until([&] {
                for (QCheckBox* one : window_->findChildren<QCheckBox*>(QString::fromLatin1(name)))
                    if (one->isVisible()) box = one;
                return box != nullptr;
            }));
            QTest::mouseClick(box, Qt::LeftButton, {}, QPoint(8, box->height() / 2));
            QTest::qWait(20);  // the cards are made anew
        };
        const auto strength = [this] { return design().sort.at(0).strength; };
        click("ignoreCase");
        QVERIFY(until([&] { return strength() == TextStrength::IgnoreCase; }));
        click("ignoreAccents");
        QVERIFY(until([&] { return strength() == TextStrength::Letters; }));
        click("ignoreCase");
        QVERIFY(until([&] { return strength() == TextStrength::IgnoreAccents; }));
        click("ignoreAccents");
        QVERIFY(until([&] { return strength() == TextStrength::Exact; }));
        for (QWidget* open : window_->findChildren<Popover*>()) QTest::keyClick(open, Qt::Key_Escape);
        window_->document().apply(before, QStringLiteral("As it was"));
    }

    /// What stands around a figure, what where there is none, and how it is written; each keeps the others.
    void howAFigureIsWritten() {
        clickStation(Stage::Summaries);
        auto* popover = window_->findChild<SummaryPopover*>();
        QVERIFY(until([&] { return within<QLineEdit>(popover, "figurePrefix") != nullptr; }));
        const auto enter = [&](const char* name, const char* text) {
            auto* entry = within<QLineEdit>(popover, name);
            entry->setFocus();
            entry->selectAll();
            QTest::keyClicks(entry, text);
        };
        enter("figurePrefix", "all ");
        enter("figureSuffix", " h");
        enter("figureFormat", "0.0");
        enter("figureEmpty", "none");
        QVERIFY(until([&] { return design().summaries[0].format.empty == "none"; }));
        const FormatSpec& format = design().summaries[0].format;
        QCOMPARE(format.prefix, std::string("all "));
        QCOMPARE(format.suffix, std::string(" h"));
        QCOMPARE(format.pattern, std::string("0.0"));
        QCOMPARE(format.style, FormatStyle::Pattern);
        choose(within<QComboBox>(popover, "figureStyle"), "minutes as h:mm");
        QVERIFY(until([&] { return design().summaries[0].format.style == FormatStyle::Duration; }));
        QCOMPARE(design().summaries[0].format.unit, DurationUnit::Minutes);
        QCOMPARE(design().summaries[0].format.prefix, std::string("all "));
        QTest::keyClick(popover, Qt::Key_Escape);
        Design next = design();
        next.summaries[0].format = {};
        window_->document().apply(next, QStringLiteral("As it was"));
    }

    void aFigureIsExplainedAndItsRecordGoneTo() {
        grid().groups().closeAll();
        QCoreApplication::processEvents();
        const QRect figure = grid().places().figure("hours_sum", 0);
        QVERIFY(!figure.isEmpty());
        QTest::mouseClick(grid().viewport(), Qt::LeftButton, {}, figure.center());
        FigurePopover* popover = nullptr;
        QVERIFY(until([&] {
            popover = window_->findChild<FigurePopover*>();
            return popover && popover->findChild<QLabel*>("figure") &&
                   !popover->findChildren<QPushButton*>("jump").empty();
        }));
        // The last link goes to the record with the largest value.
        QPushButton* jump = popover->findChildren<QPushButton*>("jump").back();
        const QString number = jump->text().section(QStringLiteral(" · "), 0, 0);
        QTest::mouseClick(jump, Qt::LeftButton);
        QVERIFY(until([&] {
            return grid().selection().current().isValid() &&
                   grid().selection().current().text("number").remove(QChar(0x2009)) == number;
        }));
        QVERIFY(!grid().places().line(grid().selection().currentCell()->line).isEmpty());
        // Of the totals too, at the foot of the window.
        QTest::mouseClick(grid().viewport(), Qt::LeftButton, {}, grid().places().figure("labour_sum").center());
        QVERIFY(until([this] {
            auto* all = window_->findChild<FigurePopover*>();
            return all && all->isVisible() && all->findChild<QLabel*>("figure");
        }));
        QTest::keyClick(window_->findChild<FigurePopover*>(), Qt::Key_Escape);
    }

    void theFiguresAsATable() {
        QTest::keyClick(window_.get(), Qt::Key_Y, Qt::ControlModifier | Qt::ShiftModifier);
        auto* popover = window_->findChild<SummaryTablePopover*>();
        QVERIFY(popover && popover->isVisible());
        Grid& table = popover->table();
        QVERIFY(until([&] { return table.lineCount() == groupCount(1); }));
        // Kept in the design, as steps.
        auto* across = within<QCheckBox>(popover, "across1");
        QTest::mouseClick(across, Qt::LeftButton, {}, QPoint(8, across->height() / 2));
        QVERIFY(until([&] { return table.lineCount() == 5 && !table.design().tiers.empty(); }));
        QVERIFY(design().groups[1].across && !design().groups[0].across);
        QVERIFY(window_->document().undoLabel().contains("side by side"));
        // The last tier is what the groups have.
        const std::string last = table.design().columns.back().field;
        grid().groups().closeAll();
        QVERIFY(until([&] { return grid().lineCount() == 5; }));
        const QString path = folder_.filePath("summary.jrow");
        QVERIFY(popover->writeTo(path).ok());
        QTest::keyClick(popover, Qt::Key_Escape);
        Grid again;
        QVERIFY(again.open(path).ok());
        QVERIFY(until([&] { return !again.isLoading() && again.lineCount() == 5; }));
        QVERIFY(again.findings().empty());
        QVERIFY(!again.recordAt(0).text(last).isEmpty());
        grid().groups().openAll();
    }

    /// Records dropped on a group are one step, which undo takes back from the database too.
    void aDropIsUndoneInOneStep() {
        Design next = design();
        next.groups.resize(1);
        window_->document().apply(next, QStringLiteral("One level"));
        QVERIFY(
            until([this] { return grid().snapshot()->grouped && groupCount(1) == -1 && grid().lineCount() == 805; }));
        const std::int64_t to = 0;
        std::int64_t from = 0;
        for (std::int64_t line = 1; line < grid().lineCount() && from == 0; ++line)
            if (grid().groups().at(line)) from = line;
        const auto gutter = [this](std::int64_t line) {
            if (grid().places().line(line).isEmpty()) grid().selection().showLine(line);
            return grid().places().line(line).topLeft() + QPoint(5, 12);
        };
        grid().groups().setOpen(to, false);
        QVERIFY(until([this] { return !grid().groups().at(0)->isOpen; }));
        from = 1;
        QVERIFY(grid().groups().at(from) && grid().recordAt(from + 1).isValid());
        const QString before = grid().recordAt(from + 1).text("status");
        const QString goal = grid().groups().at(to)->caption;
        QTest::mouseClick(grid().viewport(), Qt::LeftButton, {}, gutter(from + 1));
        QTest::mouseClick(grid().viewport(), Qt::LeftButton, Qt::ShiftModifier, gutter(from + 3));
        const std::vector<Record> moved = grid().selection().records();
        QCOMPARE(moved.size(), std::size_t{3});
        const QPoint begin = gutter(from + 1), end = grid().places().line(to).topLeft() + QPoint(34, 12);
        QTest::mousePress(grid().viewport(), Qt::LeftButton, {}, begin);
        for (int step = 1; step <= 6; ++step) QTest::mouseMove(grid().viewport(), begin + (end - begin) * step / 6);
        QTest::mouseRelease(grid().viewport(), Qt::LeftButton, {}, end);
        const auto status = [&](const Record& record) {
            return Record(grid().snapshot(), grid().session().refOf(record.row()), grid().session().sharedPlan())
                .text("status");
        };
        QVERIFY(until(
            [&] { return grid().records().unsaved() == 0 && status(moved[0]) == goal && status(moved[2]) == goal; }));
        QCOMPARE(window_->document().undoLabel(), QString("Move 3 records"));
        window_->document().undo();
        QVERIFY(until([&] {
            return grid().records().unsaved() == 0 && status(moved[0]) == before && status(moved[1]) == before &&
                   status(moved[2]) == before;
        }));
        window_->document().undo();  // the design of before
        QVERIFY(until([this] { return groupCount(1) > 5; }));
    }

    void bypassAndFile() {
        grid().session().view().setBypassed(Stage::Group, true);
        QVERIFY(until([this] { return !grid().snapshot()->grouped && grid().lineCount() == 800; }));
        QVERIFY(!isEmpty(grid().groups().figure("hours_sum")));
        grid().session().view().setBypassed(Stage::Group, false);
        QVERIFY(until([this] { return grid().snapshot()->grouped != nullptr; }));
        const Design before = design();
        const QString path = folder_.filePath("kept.jrow");
        QVERIFY(window_->document().save(path).ok());
        const auto read = readDesignFile(path.toStdString());
        QVERIFY(read.ok());
        QVERIFY(read->design.groups == before.groups && read->design.summaries == before.summaries);
    }

    void allIsUndone() {
        for (int turn = 0; turn < 200 && !window_->document().undoLabel().isEmpty(); ++turn) window_->document().undo();
        QVERIFY(design().groups.empty() && design().summaries.empty());
        QVERIFY(until([this] { return grid().lineCount() == 800; }));
        for (int turn = 0; turn < 200 && !window_->document().redoLabel().isEmpty(); ++turn) window_->document().redo();
        QVERIFY(!design().groups.empty() && design().summaries.size() == 4);
    }
};

QTEST_MAIN(GroupsWorkbenchTest)
#include "tst_groups_workbench.moc"
