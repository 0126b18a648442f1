// SPDX-License-Identifier: MIT
// Groups on the grid, by mouse and keys: opening and closing, lines that stay at the top, selecting a group's records,
// figures under their columns against SQLite, records that move to another group by an edit or a drop.
#include <QScrollBar>

#include "core/design/grouping.h"
#include "grid/paint/group_painter.h"
#include "tests/grid/grid_fixture.h"

using namespace jollyrow;

class GridGroupsTest : public QObject {
    Q_OBJECT
    std::unique_ptr<GridFixture> f_;

    Grid& grid() { return f_->grid; }
    bool until(const std::function<bool()>& condition) { return QTest::qWaitFor(condition, 30'000); }
    QString sql(const QString& select) {
        sqlite3* handle = nullptr;
        sqlite3_open(f_->path.toLocal8Bit().constData(), &handle);
        sqlite3_stmt* statement = nullptr;
        sqlite3_prepare_v2(handle, select.toUtf8().constData(), -1, &statement, nullptr);
        QStringList rows;
        while (sqlite3_step(statement) == SQLITE_ROW)
            rows << QString::fromUtf8(reinterpret_cast<const char*>(sqlite3_column_text(statement, 0)));
        sqlite3_finalize(statement);
        sqlite3_close(handle);
        return rows.join(u',');
    }
    std::optional<std::int64_t> lineOf(const QString& caption, int level = 0) {
        for (std::int64_t line = 0; line < grid().lineCount(); ++line)
            if (const auto group = grid().groups().at(line);
                group && group->caption == caption && group->level == level)
                return line;
        return std::nullopt;
    }
    QPoint onLine(std::int64_t line, int x) {
        if (grid().places().line(line).isEmpty()) grid().selection().showLine(line);
        return grid().places().line(line).topLeft() + QPoint(x, 12);
    }
    QPoint chevron(std::int64_t line) { return onLine(line, 14); }
    QPoint caption(std::int64_t line) { return onLine(line, 34); }
    static SummaryDesign figure(const char* name, const char* column, SummaryShow show) {
        SummaryDesign summary;
        summary.name = name;
        summary.column = column;
        summary.show = show;
        return summary;
    }

  private Q_SLOTS:
    void init() {
        f_ = std::make_unique<GridFixture>();
        QVERIFY(f_->open());
        Design design = grid().design();
        GroupDesign status;
        status.key.field = "status";
        design.groups = {status};
        design.summaries = {figure("n", "number", SummaryShow::Count), figure("h", "hours", SummaryShow::Sum),
                            figure("m", "hours", SummaryShow::Mean)};
        grid().setDesign(design);
        QVERIFY(until([this] { return grid().lineCount() == 203; }));
    }
    void cleanup() { f_.reset(); }

    /// Columns beneath each other have their figures beneath each other, whole and in their line.
    void figuresOfStackedColumnsHaveRoom() {
        Design design = grid().design();
        design.column("paid")->under = "hours";
        design.summaries = {figure("h", "hours", SummaryShow::Sum), figure("p", "paid", SummaryShow::Filled),
                            figure("m", "hours", SummaryShow::Mean)};
        grid().setDesign(design);
        QVERIFY(until(
            [this] { return !grid().places().figure("p", 0).isEmpty() && !grid().places().figure("p").isEmpty(); }));
        for (const std::optional<std::int64_t> line : {std::optional<std::int64_t>(0), std::optional<std::int64_t>()}) {
            std::vector<QRect> rects;
            for (const char* name : {"h", "p", "m"}) rects.push_back(grid().places().figure(name, line));
            for (std::size_t a = 0; a < rects.size(); ++a) {
                QVERIFY2(!rects[a].isEmpty(), qPrintable(QString::number(a)));
                for (std::size_t b = a + 1; b < rects.size(); ++b) QVERIFY(!rects[a].intersects(rects[b]));
                if (line) QVERIFY(grid().places().line(*line).contains(rects[a]));
                QVERIFY(grid().viewport()->rect().contains(rects[a]));
                QVERIFY(rects[a].height() >= grid().fontMetrics().height() - 2);
            }
        }
    }

    void groupsOpenAndCloseByMouseAndKeys() {
        QCOMPARE(grid().groups().at(0)->caption, QString("Booked"));
        QCOMPARE(QString::number(grid().groups().at(0)->records),
                 sql("SELECT count(*) FROM jobs WHERE status = 'Booked'"));
        const std::int64_t booked = grid().groups().at(0)->records;
        QVERIFY(grid().recordAt(1).isValid() && !grid().recordAt(0).isValid());
        f_->click(chevron(0));
        QCOMPARE(grid().lineCount(), 203 - booked);
        QVERIFY(!grid().groups().at(0)->isOpen);
        f_->click(chevron(0));
        QCOMPARE(grid().lineCount(), std::int64_t{203});
        QTest::mouseDClick(f_->viewport(), Qt::LeftButton, {}, caption(0));
        QCOMPARE(grid().lineCount(), 203 - booked);
        // By keys: right opens, right again goes in, left comes back and closes.
        f_->click(caption(0));
        f_->key(Qt::Key_Right);
        QCOMPARE(grid().lineCount(), std::int64_t{203});
        f_->key(Qt::Key_Right);
        QCOMPARE(grid().selection().currentCell()->line, std::int64_t{1});
        f_->key(Qt::Key_Left);
        QCOMPARE(grid().selection().currentCell()->line, std::int64_t{0});
        f_->key(Qt::Key_Left);
        QCOMPARE(grid().lineCount(), 203 - booked);
        QTest::keyClick(&grid(), Qt::Key_Slash);
        QCOMPARE(grid().lineCount(), std::int64_t{3});
        QTest::keyClick(&grid(), Qt::Key_Asterisk);
        QCOMPARE(grid().lineCount(), std::int64_t{203});
        QVERIFY(!grid().records().editCurrentCell());  // a group's line is no record
    }

    void whatIsOpenSurvivesSortFilterAndReload() {
        f_->click(chevron(*lineOf("In hand")));
        const std::int64_t lines = grid().lineCount();
        SortDesign hours;
        hours.field = "hours";
        hours.direction = Direction::Descending;
        grid().setSort({hours});
        QVERIFY(until([this] { return grid().recordAt(1).text("hours") == "39.50"; }));
        QCOMPARE(grid().lineCount(), lines);
        QVERIFY(!grid().groups().at(*lineOf("In hand"))->isOpen);
        QVERIFY(grid().filters().setEntry("hours", "> 20").ok());
        QVERIFY(until([&] { return grid().lineCount() < lines; }));
        QVERIFY(!grid().groups().at(*lineOf("In hand"))->isOpen && grid().groups().at(*lineOf("Done"))->isOpen);
        const std::int64_t filtered = grid().lineCount();
        grid().reload();
        QVERIFY(until([this] { return !grid().isLoading(); }));
        QCOMPARE(grid().lineCount(), filtered);
        QVERIFY(!grid().groups().at(*lineOf("In hand"))->isOpen);
    }

    void theOpenGroupStaysAtTheTop() {
        Design design = grid().design();
        GroupDesign paid;
        paid.key.field = "paid";
        design.groups.push_back(paid);
        grid().setDesign(design);
        QVERIFY(until([this] { return grid().lineCount() == 200 + 3 + 6; }));
        const int top = grid().places().heading("number").bottom() + 1;
        grid().selection().setCurrentCell(40, 0);
        grid().verticalScrollBar()->setValue(grid().verticalScrollBar()->value() + 300);
        QVERIFY(grid().verticalScrollBar()->value() > 0);
        // Both levels are there, one under the other.
        QCOMPARE(grid().places().line(0).top(), top);
        QCOMPARE(grid().places().line(1).top(), grid().places().line(0).bottom() + 1);
        // A record that is made current is not hidden beneath them.
        grid().selection().setCurrentCell(5, 0);
        QVERIFY(grid().places().cell(5, "number").top() > grid().places().line(1).bottom());
        // Near its end the next group pushes it out.
        const std::int64_t next = *lineOf("Done");
        const int height = grid().places().line(0).height();
        for (int turn = 0; turn < 4000 && grid().places().line(next).top() != top + height / 2; ++turn) {
            const int now = grid().verticalScrollBar()->value();
            grid().verticalScrollBar()->setValue(now + std::max(1, (grid().places().line(next).isEmpty() ? 200 : 13)));
            if (grid().verticalScrollBar()->value() == now) break;
            if (!grid().places().line(next).isEmpty() && grid().places().line(next).top() < top + height) break;
        }
        QVERIFY(grid().places().line(0).top() < top);
        // A click on the mark of a line that stays closes its group and shows the line where it stands.
        grid().selection().setCurrentCell(0, 0);
        grid().verticalScrollBar()->setValue(400);
        QVERIFY(grid().places().line(0).top() == top);
        f_->click(chevron(0));
        QVERIFY(!grid().groups().at(0)->isOpen);
        QCOMPARE(grid().places().line(0).top(), top);
    }

    void aGroupSelectsItsRecords() {
        const std::int64_t done = *lineOf("Done");
        f_->click(chevron(done));
        f_->click(caption(done));
        QCOMPARE(QString::number(grid().selection().count()), sql("SELECT count(*) FROM jobs WHERE status = 'Done'"));
        for (const Record& record : grid().selection().records()) QCOMPARE(record.text("status"), QString("Done"));
        grid().selection().showLine(0);
        f_->click(caption(0), Qt::ControlModifier);
        QCOMPARE(QString::number(grid().selection().count()),
                 sql("SELECT count(*) FROM jobs WHERE status IN ('Done', 'Booked')"));
        f_->click(caption(0), Qt::ControlModifier);
        QCOMPARE(QString::number(grid().selection().count()), sql("SELECT count(*) FROM jobs WHERE status = 'Done'"));
    }

    /// Groups, footers and totals look as the design has them; on a dark colour the text is light.
    void linesLookAsDesigned() {
        const auto inked = [](const QImage& picture, const QRect& part, const QColor& behind) {
            int pixels = 0;
            for (int y = part.top(); y <= part.bottom(); ++y)
                for (int x = part.left(); x <= part.right(); ++x)
                    pixels += std::abs(picture.pixelColor(x, y).lightness() - behind.lightness()) > 90;
            return pixels;
        };
        Design design = grid().design();
        design.groups[0].footer = true;
        grid().setDesign(design);
        QVERIFY(until([this] { return grid().lineCount() == 206; }));
        const std::int64_t footer = grid().groups().at(0)->records + 1;
        const auto shot = [&](std::int64_t line) {
            grid().selection().showLine(line);
            QCoreApplication::processEvents();
            return grid().viewport()->grab().toImage();
        };
        const auto captionOf = [&](std::int64_t line) {
            return QRect(grid().places().line(line).topLeft() + QPoint(26, 1), QSize(60, 22));
        };
        const auto behind = [&](const QImage& picture, std::int64_t line) {
            return picture.pixelColor(grid().places().line(line).topLeft() + QPoint(3, 3));
        };
        QImage before = shot(0);
        const int bold = inked(before, captionOf(0), behind(before, 0));
        const QRect totals(3, grid().viewport()->height() - 6, 1, 1);

        design.groups[0].weight = LineWeight::Regular;
        design.groups[0].footerColour = "#d3e9e6";
        design.groups[0].footerWeight = LineWeight::Bold;
        design.grid.totalColour = "#1f4e53";
        grid().setDesign(design);
        QVERIFY(until(
            [&] { return grid().viewport()->grab().toImage().pixelColor(totals.topLeft()) == QColor("#1f4e53"); }));
        // Groups come with the next snapshot, the colour of totals at once.
        QImage after;
        QVERIFY(bold > 0 && until([&] {
                    after = shot(0);
                    return inked(after, captionOf(0), behind(after, 0)) < bold;
                }));
        QCOMPARE(behind(after, 0), behind(before, 0));
        const QRect totalText(10, grid().viewport()->height() - 24, 80, 20);
        int light = 0;
        for (int x = totalText.left(); x < totalText.right(); ++x)
            for (int y = totalText.top(); y < totalText.bottom(); ++y)
                light += after.pixelColor(x, y).lightness() > 220;
        QVERIFY(light > 20);
        after = shot(footer);
        QCOMPARE(behind(after, footer), QColor("#d3e9e6"));

        design.groups[0].colour = "#1f4e53";
        grid().setDesign(design);
        QVERIFY(until([&] { return behind(shot(0), 0) == QColor("#1f4e53"); }));
        after = shot(0);
        QVERIFY(inked(after, captionOf(0), QColor("#1f4e53")) > 20);  // light on dark
    }

    /// Each kind of line has its height and the colour of its text, readable on what stands behind it; a line's heights
    /// are those that scrolling and finding by place go by.
    void eachKindOfLineHasItsHeightAndInk() {
        Design design = grid().design();
        design.groups[0].footer = true;
        grid().setDesign(design);
        QVERIFY(until([this] { return grid().lineCount() == 206; }));
        const std::int64_t footer = grid().groups().at(0)->records + 1;
        const auto place = [&](std::int64_t line) {
            grid().selection().showLine(line);
            QCoreApplication::processEvents();
            return grid().places().line(line);
        };
        const int group = place(0).height(), foot = place(footer).height(), record = place(1).height();
        const auto reddest = [&](QRect part) {
            const QImage picture = grid().viewport()->grab().toImage();
            int most = 0;
            for (int x = part.left(); x < part.right(); ++x)
                for (int y = part.top(); y < part.bottom(); ++y) {
                    const QColor pixel = picture.pixelColor(x, y);
                    most = std::max(most, pixel.red() - std::max(pixel.green(), pixel.blue()));
                }
            return most;
        };
        const auto totalsBand = [&](int height) {
            return QRect(10, grid().viewport()->height() - height, 200, height - 2);
        };
        QVERIFY(reddest(totalsBand(20)) < 60);
        design.groups[0].textColour = "#c00000";
        design.groups[0].footerTextColour = "#c00000";
        design.groups[0].footerHeight = foot + 23;
        design.grid.totalHeight = 61;
        design.grid.totalTextColour = "#c00000";
        grid().setDesign(design);
        QVERIFY(until([&] { return place(footer).height() == foot + 23; }));
        QCOMPARE(place(0).height(), group);
        QCOMPARE(place(1).height(), record);
        QVERIFY(until([&] { return reddest(place(0).adjusted(26, 0, -place(0).width() + 120, 0)) > 100; }));
        QVERIFY(reddest(place(footer).adjusted(26, 0, -place(footer).width() + 160, 0)) > 100);
        QVERIFY(reddest(totalsBand(61)) > 100);
        // Of the height of the totals the records see nothing: the foot begins 61 pixels (and its rule) further up.
        const QRect last = place(grid().lineCount() - 1);
        QVERIFY(last.bottom() <= grid().viewport()->height() - 61);
        // On its own colour it would not be seen: it is made to be.
        design.groups[0].colour = "#c00000";
        grid().setDesign(design);
        QVERIFY(until([&] {
            return grid().viewport()->grab().toImage().pixelColor(place(0).topLeft() + QPoint(3, 3)) ==
                   QColor("#c00000");
        }));
        const QImage picture = grid().viewport()->grab().toImage();
        int others = 0;
        const QRect caption(place(0).topLeft() + QPoint(26, 1), QSize(60, 22));
        for (int x = caption.left(); x < caption.right(); ++x)
            for (int y = caption.top(); y < caption.bottom(); ++y)
                others += std::abs(picture.pixelColor(x, y).lightness() - QColor("#c00000").lightness()) > 60;
        QVERIFY(others > 20);
    }

    void figuresAreThoseOfTheDatabase() {
        const auto text = [this](const char* name, std::optional<std::int64_t> line) {
            std::string out;
            appendPlain(out, grid().groups().figure(name, line));
            return QString::fromStdString(out);
        };
        const auto total = [](QString hundredths) { return QString::number(hundredths.toDouble(), 'f', 2); };
        for (const char* status : {"Booked", "In hand", "Done"}) {
            const auto line = lineOf(status);
            QCOMPARE(text("n", line), sql(QString("SELECT count(*) FROM jobs WHERE status = '%1'").arg(status)));
            QCOMPARE(text("h", line),
                     total(sql(QString("SELECT sum(hours) FROM jobs WHERE status = '%1'").arg(status))));
        }
        QCOMPARE(text("h", std::nullopt), total(sql("SELECT sum(hours) FROM jobs")));
        QVERIFY(grid().filters().setEntry("paid", "yes").ok());
        QVERIFY(
            until([&] { return text("h", std::nullopt) == total(sql("SELECT sum(hours) FROM jobs WHERE paid = 1")); }));
        // Two figures stand on one column beneath each other, within its line.
        const QRect sum = grid().places().figure("h", 0), mean = grid().places().figure("m", 0),
                    line = grid().places().line(0);
        QVERIFY(line.contains(sum.center()) && line.contains(mean.center()));
        QVERIFY(mean.top() >= sum.bottom());
        QCOMPARE(sum.left(), grid().places().heading("hours").left());
    }

    /// Totals of the selected and of all records stand above and below those of the records shown.
    void totalsOfSelectedAndAll() {
        Design design = grid().design();
        design.grid.totalSelected = design.grid.totalAll = true;
        grid().setDesign(design);
        QVERIFY(grid().filters().setEntry("paid", "yes").ok());
        QVERIFY(until([this] {
            return grid().snapshot()->figuresOfAll.size() == 3 && grid().snapshot()->filter.rowsOut == 100;
        }));
        QCOMPARE(std::get<std::int64_t>(grid().snapshot()->figuresOfAll[0].value), std::int64_t{200});
        f_->click(caption(0));
        std::vector<SourceRow> rows;
        for (const Record& record : grid().selection().records()) rows.push_back(record.row());
        QCOMPARE(QString::number(rows.size()), sql("SELECT count(*) FROM jobs WHERE paid = 1 AND status = 'Booked'"));
        std::vector<EvaluatedCell> figures;
        grid().session().questions().figuresOf(
            rows, [&](const Result<std::vector<EvaluatedCell>>& made) { figures = *made; });
        QVERIFY(until([&] { return figures.size() == 3; }));
        QCOMPARE(
            toString(std::get<WideDecimal>(figures[1].value)),
            QString::number(sql("SELECT sum(hours) FROM jobs WHERE paid = 1 AND status = 'Booked'").toDouble(), 'f', 2)
                .toStdString());
        // Three rows of totals, and the records end above them.
        QVERIFY(grid().places().figure("h").bottom() < grid().viewport()->height() - 20);
        QVERIFY(grid().places().line(grid().lineCount() - 1).isEmpty() ||
                grid().places().line(grid().lineCount() - 1).bottom() < grid().places().figure("h").top());
    }

    void anEditTouchesItsFigures() {
        grid().selection().setCurrentCell(1, 0);
        const Record record = grid().selection().current();
        QSignalSpy clicked(&grid(), &Grid::figureClicked);
        const QString now =
            QString::number(sql(QString("SELECT sum(hours) FROM jobs WHERE status = 'Booked' AND number <> %1")
                                    .arg(record.text("number")))
                                    .toDouble() +
                                1000.5,
                            'f', 2);
        grid().records().setValue(record, "hours", Value(Decimal{100050, 2}));
        const auto figure = [this] {
            std::string out;
            appendPlain(out, grid().groups().figure("h", 0));
            return QString::fromStdString(out);
        };
        QVERIFY2(until([&] { return figure() == now; }), qPrintable(figure() + " is not " + now));
        QVERIFY(until([this] { return grid().records().unsaved() == 0; }));
        QCOMPARE(grid().selection().current().text("number"), record.text("number"));  // it stays where it is
        f_->click(grid().places().figure("h", 0).center());
        QCOMPARE(clicked.count(), 1);
        QCOMPARE(clicked[0][0].toInt(), 1);
    }

    void anEditedGroupValueMovesTheRecordAndFocusFollows() {
        f_->click(chevron(*lineOf("Done")));  // the group it goes to is closed
        grid().selection().setCurrentCell(3, 0);
        const QString number = grid().selection().current().text("number");
        const std::int64_t column = 3;
        QCOMPARE(grid().design().columns[column].field, std::string("status"));
        grid().selection().setCurrentCell(3, static_cast<int>(column));
        QTest::keyClick(&grid(), Qt::Key_F2);
        QWidget* entry = QApplication::focusWidget();
        QTest::keyClicks(entry, "Done");
        QTest::keyClick(entry, Qt::Key_Return);
        QVERIFY(until([&] {
            const auto line = lineOf("Done");
            return grid().selection().current().isValid() && grid().selection().current().text("number") == number &&
                   line && grid().selection().currentCell()->line > *line && grid().groups().at(*line)->isOpen;
        }));
        QVERIFY(!grid().places().line(grid().selection().currentCell()->line).isEmpty());
        QVERIFY(until([this] { return grid().records().unsaved() == 0; }));
        QCOMPARE(sql("SELECT status FROM jobs WHERE number = " + number), QString("Done"));
    }

    void recordsDroppedOnAGroupTakeItsValue() {
        f_->click(chevron(*lineOf("Booked")));
        const std::int64_t from = *lineOf("Done");
        const QStringList numbers = {grid().recordAt(from + 1).text("number"),
                                     grid().recordAt(from + 2).text("number")};
        const auto gutter = [this](std::int64_t line) { return onLine(line, 5); };
        QSignalSpy begun(&grid(), &Grid::editsBegun), failed(&grid(), &Grid::failed);
        f_->click(gutter(from + 1));
        f_->click(gutter(from + 2), Qt::ShiftModifier);
        QCOMPARE(grid().selection().count(), std::int64_t{2});
        f_->drag(gutter(from + 1), caption(0));
        QCOMPARE(begun.count(), 1);
        QVERIFY(until([this] { return grid().records().unsaved() == 0; }));
        QCOMPARE(sql(QString("SELECT DISTINCT status FROM jobs WHERE number IN (%1)").arg(numbers.join(u','))),
                 QString("Booked"));
        // Groups by ranges cannot be set so, and it is said.
        Design design = grid().design();
        GroupDesign ranges;
        ranges.key.field = "hours";
        ranges.by = GroupBy::Ranges;
        ranges.cuts = {"10", "20"};
        design.groups = {ranges};
        grid().setDesign(design);
        QVERIFY(until([this] { return lineOf("10 to 20").has_value(); }));
        f_->click(gutter(1));
        f_->drag(gutter(1), gutter(4));  // within its group: nothing to set, nothing to undo
        QCOMPARE(failed.count(), 0);
        QCOMPARE(begun.count(), 1);
        f_->click(chevron(0));
        QVERIFY(until([this] { return lineOf("10 to 20") == 1; }));
        f_->click(gutter(2));
        f_->drag(gutter(2), caption(0));
        QCOMPARE(failed.count(), 1);
        QVERIFY(failed[0][0].toString().contains("computed for the groups"));
    }

    /// The selected records go up and down a group by keys, are saved as they go, and come back the same way.
    void recordsMoveToTheGroupsAroundByKeys() {
        QSignalSpy failed(&grid(), &Grid::failed);
        std::vector<QString> captions;
        const auto readCaptions = [&] {
            captions.clear();
            for (std::int64_t line = 0; line < grid().lineCount(); ++line)
                if (const auto group = grid().groups().at(line)) captions.push_back(group->caption);
        };
        readCaptions();
        QVERIFY(captions.size() >= 3);
        const std::int64_t second = *lineOf(captions[1]);
        const QString number = grid().recordAt(second + 1).text("number"),
                      other = grid().recordAt(second + 2).text("number");
        const auto statusOf = [&](const QString& of) { return sql("SELECT status FROM jobs WHERE number = " + of); };
        const QString all = sql("SELECT group_concat(status) FROM (SELECT status FROM jobs ORDER BY number)");
        const auto settled = [&] {
            return until([&] { return grid().records().unsaved() == 0 && !grid().session().isLoading(); });
        };
        f_->click(onLine(second + 1, 5));
        f_->click(onLine(second + 2, 5), Qt::ShiftModifier);
        const auto press = [&](int key) {
            QTest::keyClick(grid().viewport(), key, Qt::AltModifier | Qt::ShiftModifier);
        };
        press(Qt::Key_Up);
        QVERIFY(settled());
        for (const QString& one : {number, other}) QCOMPARE(statusOf(one), captions[0]);
        QCOMPARE(grid().selection().count(), std::int64_t{2});
        QVERIFY(until([&] { return grid().selection().current().text("status") == captions[0]; }));
        press(Qt::Key_Up);
        QCOMPARE(failed.count(), 1);
        QVERIFY(failed[0][0].toString().contains("first group"));
        for (int step = 1; step <= 2; ++step) {
            press(Qt::Key_Down);
            QVERIFY(settled());
            for (const QString& one : {number, other})
                QCOMPARE(statusOf(one), captions[static_cast<std::size_t>(step)]);
        }
        press(Qt::Key_Up);
        QVERIFY(settled());
        QCOMPARE(sql("SELECT group_concat(status) FROM (SELECT status FROM jobs ORDER BY number)"), all);
        // On a group's own line, and where nothing is grouped, the keys are nobody's.
        f_->click(caption(0));
        press(Qt::Key_Down);
        Design design = grid().design();
        design.groups.clear();
        grid().setDesign(design);
        QVERIFY(until([this] { return !grid().groups().at(0); }));
        press(Qt::Key_Down);
        QVERIFY(settled());
        QCOMPARE(sql("SELECT group_concat(status) FROM (SELECT status FROM jobs ORDER BY number)"), all);
    }

    void aGroupThatFailsSaysSo() {
        Design design = grid().design();
        GroupDesign rule;
        rule.key.rule = "100 / (number - 7)";
        rule.key.title = "Odd rule";
        design.groups = {rule};
        grid().setDesign(design);
        QVERIFY(until([this] {
            return grid().lineCount() > 0 && grid().groups().at(0) && grid().groups().at(0)->caption != "Booked";
        }));
        QVERIFY(lineOf("cannot be grouped: division by zero").has_value());
        QCOMPARE(grid().snapshot()->group.failed, std::int64_t{1});
    }
};

QTEST_MAIN(GridGroupsTest)
#include "tst_grid_groups.moc"
