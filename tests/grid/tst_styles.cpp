// SPDX-License-Identifier: MIT
// Styles in a real grid: backgrounds and text where conditions hold and nowhere else, in light and dark, under
// selection, after edits, filters and reloads; text stays legible on any colour.
#include <QtTest>

#include "grid/paint/cell_looks.h"
#include "grid/paint/contrast.h"
#include "tests/grid/grid_fixture.h"
#include "tests/sources/database.h"

using namespace jollyrow;

class StylesTest : public QObject {
    Q_OBJECT
    std::unique_ptr<GridFixture> f_;
    Grid& grid() { return f_->grid; }
    QColor behind(std::int64_t line, const char* field) {
        return grid().viewport()->grab().toImage().pixelColor(grid().places().cell(line, field).topLeft() +
                                                              QPoint(3, 4));
    }
    void style(const std::function<void(std::vector<StyleDesign>&)>& change) {
        grid().changeDesign([&](Design& d) { change(d.styles); });
        QVERIFY(grid().findings().empty());
    }
    static StyleDesign made(const char* where, std::vector<std::string> columns, const char* background) {
        StyleDesign one;
        one.name = where;
        one.where = where;
        one.columns = std::move(columns);
        one.background = background;
        return one;
    }

  private Q_SLOTS:
    void init() {
        f_ = std::make_unique<GridFixture>();
        f_->design.grid.stripes = false;
        QVERIFY(f_->open());
    }
    void cleanup() { f_.reset(); }

    void cellsAndRecordsAreColouredWhereTheConditionHolds() {
        style([](auto& s) { s = {made("hours > 4", {"hours"}, "#ffd080"), made("paid", {}, "teal")}; });
        const Tokens& t = tokens(Theme::Light);
        f_->click(grid().places().cell(12, "number").center());
        QTest::mouseMove(f_->viewport(), QPoint(5, 480));
        for (std::int64_t line = 0; line < 8; ++line) {
            const bool isLong = grid().recordAt(line).text("hours").toDouble() > 4;
            const bool isPaid = grid().recordAt(line).text("number").toInt() % 2 == 1;
            QCOMPARE(behind(line, "hours"), isLong ? QColor("#ffd080") : isPaid ? t.tealPale : t.paper);
            QCOMPARE(behind(line, "work"), isPaid ? t.tealPale : t.paper);
        }
        // Off, it has no effect; undone by whoever keeps designs.
        style([](auto& s) { s[0].on = false; });
        QCOMPARE(behind(4, "hours"), t.tealPale);
    }

    void aSelectedRecordLooksSelected() {
        style([](auto& s) { s = {made("", {}, "#ff0000")}; });
        QCOMPARE(behind(2, "work"), QColor("#ff0000"));
        f_->click(grid().places().cell(2, "status").center());
        QCOMPARE(behind(2, "work"), tokens(Theme::Light).tealPale);
        QCOMPARE(behind(3, "work"), QColor("#ff0000"));
    }

    /// The lines between tiers are as faint as without styles where nothing is coloured, and run over what is.
    void linesOfTiersStandOverColours() {
        grid().changeDesign([](Design& d) { d.tier("Effort").add("hours"); });
        const auto line = [this](std::int64_t at, const QImage& image) {
            const QRect cell = grid().places().cell(at, "hours");
            return image.pixelColor(cell.left(), cell.center().y());
        };
        QTest::mouseMove(f_->viewport(), QPoint(5, 480));
        const QColor plain = line(0, grid().viewport()->grab().toImage());
        QVERIFY(plain != tokens(Theme::Light).paper);
        style([](auto& s) { s = {made("paid", {}, "#80c0ff")}; });
        const QImage image = grid().viewport()->grab().toImage();
        int coloured = 0;
        for (std::int64_t at = 0; at < 8; ++at) {
            const bool isPaid = behind(at, "work") == QColor("#80c0ff");
            coloured += isPaid ? 1 : 0;
            QVERIFY((line(at, image) == plain) != isPaid);
            QVERIFY(line(at, image) != QColor("#80c0ff"));
        }
        QVERIFY(coloured > 0 && coloured < 8);
    }

    /// Whatever colours a builder takes, text stands out from them by 4.5:1, in light and dark.
    void textStaysLegible() {
        std::mt19937 random(6);
        const auto any = [&] { return QColor(random() % 256, random() % 256, random() % 256).name().toStdString(); };
        for (const GridTheme theme : {GridTheme::Light, GridTheme::Dark}) {
            const Tokens& t = tokens(theme == GridTheme::Light ? Theme::Light : Theme::Dark);
            for (int turn = 0; turn < 500; ++turn) {
                StyleDesign one = made("", {}, any().c_str());
                one.ink = random() % 2 ? any() : "";
                const QColor background = styleBackground(one.background, t);
                const QColor ink =
                    legible(one.ink.empty() ? t.ink : QColor(QString::fromStdString(one.ink)), background);
                QVERIFY(contrast(ink, background) >= 4.45);
            }
            // On the screen: somewhere in a cell there is a pixel that stands out so.
            grid().changeDesign([&](Design& d) {
                d.grid.theme = theme;
                d.styles = {made("", {}, "#335577")};
                d.faces = {{"quiet", face::row({face::field().quiet()})}};
                d.column("status")->face = "quiet";
                d.styles.front().ink = "#336688";
            });
            const QImage image = grid().viewport()->grab().toImage();
            // A plain text, a quiet text of a face, and the sign for nothing.
            for (const char* field : {"work", "status", "notes"}) {
                const QRect cell = grid().places().cell(0, field);
                const QColor background = image.pixelColor(cell.topLeft() + QPoint(3, 4));
                double most = 0;
                for (int x = cell.left() + 6; x < cell.right() - 6; ++x)
                    for (int y = cell.top() + 3; y < cell.bottom() - 3; ++y)
                        most = std::max(most, contrast(image.pixelColor(x, y), background));
                // Small letters are blended at their edges.
                QVERIFY2(most >= 3.5, qPrintable(QString("%1 %2").arg(field).arg(most)));
            }
        }
    }

    void weightAndStrikeAreSeen() {
        const auto dark = [this](std::int64_t line) {
            const QImage image = grid().viewport()->grab().toImage();
            const QRect cell = grid().places().cell(line, "work").adjusted(4, 3, -4, -4);
            int pixels = 0;
            for (int y = cell.top(); y <= cell.bottom(); ++y)
                for (int x = cell.left(); x <= cell.right(); ++x) pixels += image.pixelColor(x, y).lightness() < 120;
            return pixels;
        };
        const int before = dark(1);
        style([](auto& s) {
            s = {made("", {"work"}, "")};
            s[0].weight = LineWeight::Bold;
        });
        const int bold = dark(1);
        QVERIFY2(bold > before, qPrintable(QString("%1 %2").arg(before).arg(bold)));
        style([](auto& s) {
            s[0].weight = LineWeight::Theme;
            s[0].strike = true;
        });
        QVERIFY(dark(1) > before + 20);
    }

    void editsAndReloadsMoveThem() {
        style([](auto& s) { s = {made("hours > 30", {"hours"}, "#ffd080")}; });
        QVERIFY(behind(0, "hours") != QColor("#ffd080"));
        QVERIFY(grid().records().setValue(grid().recordAt(0), "hours", Decimal{3550, 2}));
        QTRY_COMPARE(behind(0, "hours"), QColor("#ffd080"));
        QTRY_VERIFY(grid().snapshot()->edits->count(EditState::Saving) == 0);
        run(f_->path, "UPDATE jobs SET hours = 2 WHERE number = 1; UPDATE jobs SET hours = 39 WHERE number = 2");
        grid().reload();
        QTRY_COMPARE(behind(1, "hours"), QColor("#ffd080"));
        QVERIFY(behind(0, "hours") != QColor("#ffd080"));
    }

    void aScaleMixesItsEnds() {
        style([](auto& s) {
            s = {made("", {"hours"}, "")};
            s[0].lowest = "#ffffff";
            s[0].highest = "#ff0000";
        });
        QTRY_VERIFY(!grid().snapshot()->extents.empty());
        double last = 300;
        for (std::int64_t line = 0; line < 8; ++line) {  // hours rise from line to line
            const QColor colour = behind(line, "hours");
            QCOMPARE(colour.red(), 255);
            QVERIFY(colour.green() < last);
            last = colour.green();
        }
        // Of what is shown: the least of those is white again.
        grid().changeDesign([](Design& d) { d.filter = {{"hours > 20", "", "", true}}; });
        QTRY_VERIFY(grid().lineCount() < 200);
        QTRY_VERIFY(behind(0, "hours").green() > 240);
    }

    /// Before the value and beside it, in a column that is made wider for it; other columns stay as they are.
    void iconsStandBeforeValues() {
        grid().changeDesign([](Design& d) {
            d.column("hours")->width.mode = WidthMode::Fit;
            d.column("hours")->heading = "h";  // narrower than the values
            d.column("work")->width.mode = WidthMode::Fit;
        });
        const int before = grid().places().cell(0, "hours").width(), other = grid().places().cell(0, "work").width();
        style([](auto& s) {
            s = {made("", {"hours"}, "")};
            s[0].icons = {{MarkShape::Disc, "#ff0000"}};
        });
        QTRY_COMPARE(grid().places().cell(0, "hours").width(), before + measure::kIconRoom);
        QCOMPARE(grid().places().cell(0, "work").width(), other);
        const QImage image = grid().viewport()->grab().toImage();
        for (std::int64_t line = 1; line < 6; ++line) {
            const QRect cell = grid().places().cell(line, "hours");
            int reds = 0, inks = 0;
            for (int y = cell.top() + 2; y < cell.bottom() - 2; ++y)
                for (int x = cell.left(); x < cell.right(); ++x) {
                    const QColor colour = image.pixelColor(x, y);
                    const bool isIcon = x < cell.left() + measure::kCellPadding + 13;
                    const bool isRed = colour.red() > 180 && colour.green() < 90 && colour.blue() < 90;
                    reds += isRed;
                    QVERIFY(!isRed || isIcon);
                    inks += !isIcon && colour.lightness() < 110;
                }
            QVERIFY2(reds > 40 && inks > 10, qPrintable(QString("%1 %2").arg(reds).arg(inks)));
        }
    }

    void iconsAreReadAloud() {
        style([](auto& s) {
            s = {made("hours > 4", {"hours"}, "")};
            s[0].name = "Long";
            s[0].icons = {{MarkShape::Diamond, ""}};
        });
        QAccessibleInterface* table = QAccessible::queryAccessibleInterface(&grid());
        int column = 0;
        while (grid().session().plan().columns[static_cast<std::size_t>(column)].design.field != "hours") ++column;
        for (int line = 0; line < 8; ++line) {
            const QString said = table->tableInterface()->cellAt(line, column)->text(QAccessible::Description);
            QCOMPARE(said.endsWith(", Long"), grid().recordAt(line).text("hours").toDouble() > 4);
        }
    }

    /// A style of group lines colours the lines for which its aggregates hold, and figures under their columns.
    void groupLinesAndTotals() {
        grid().changeDesign([](Design& d) {
            d.groups.emplace_back().key.field = "status";
            SummaryDesign& sum = d.summaries.emplace_back();
            sum.name = "h";
            sum.column = "hours";
            sum.show = SummaryShow::Sum;
            StyleDesign many = made("COUNT(*) > 66", {}, "#ffd080"), figures = made("", {"hours"}, "");
            many.lines = figures.lines = StyledLines::Groups;
            figures.lowest = "#ffffff";
            figures.middle = "#00ff00";
            figures.highest = "#0000ff";
            StyleDesign total = made("COUNT(*) = 200", {}, "#ffaaee");
            total.lines = StyledLines::Totals;
            d.styles = {figures, many, total};
        });
        QVERIFY(grid().findings().empty());
        QTRY_VERIFY(grid().snapshot()->grouped);
        grid().groups().closeAll();
        QTRY_VERIFY(grid().lineCount() < 10);
        QTest::mouseMove(f_->viewport(), QPoint(5, f_->viewport()->height() - 60));
        const GroupTree& tree = *grid().snapshot()->groups->tree;
        const QImage image = grid().viewport()->grab().toImage();
        int styled = 0, plain = 0;
        for (std::uint32_t node = 0; node < tree.nodes.size(); ++node) {
            const QRect line = grid().places().line(node);
            const bool isMany = tree.nodes[node].count > 66;
            const QColor colour = image.pixelColor(line.left() + 3, line.top() + 4);
            QCOMPARE(colour == QColor("#ffd080"), isMany);
            isMany ? ++styled : ++plain;
        }
        QVERIFY(styled > 0 && plain + styled == static_cast<int>(tree.nodes.size()));
        // The greatest sum is blue, the least white; others are between, by way of green.
        std::vector<std::pair<double, QColor>> seen;
        for (std::uint32_t node = 0; node < tree.nodes.size(); ++node) {
            const EvaluatedCell cell = grid().snapshot()->groups->figure(0, node);
            const QRect at = grid().places().cell(node, "hours");
            seen.emplace_back(toReal(std::get<WideDecimal>(cell.value)), image.pixelColor(at.left() + 2, at.top() + 3));
        }
        std::sort(seen.begin(), seen.end(), [](const auto& a, const auto& b) { return a.first < b.first; });
        QCOMPARE(seen.front().second, QColor("#ffffff"));
        QCOMPARE(seen.back().second, QColor("#0000ff"));
        // The total of all that are shown, until fewer are.
        const auto foot = [this] {
            const QImage now = grid().viewport()->grab().toImage();
            return now.pixelColor(4, now.height() - 8);
        };
        QCOMPARE(foot(), QColor("#ffaaee"));
        // Another colour, and another condition, of a style alone.
        const auto firstLine = [this] {
            return grid().viewport()->grab().toImage().pixelColor(grid().places().line(0).topLeft() + QPoint(3, 4));
        };
        style([](auto& s) { s[1].background = "#80ffd0", s[1].where = "COUNT(*) > 0"; });
        QTRY_COMPARE(firstLine(), QColor("#80ffd0"));
        style([](auto& s) { s[1].where = "COUNT(*) > 1000"; });
        QTRY_VERIFY(firstLine() != QColor("#80ffd0"));
        grid().changeDesign([](Design& d) { d.filter = {{"hours > 20", "", "", true}}; });
        QTRY_VERIFY(grid().snapshot()->recordCount() < 200);
        QVERIFY(foot() != QColor("#ffaaee"));
    }

    void groupsAndFacesGoWithThem() {
        grid().changeDesign([](Design& d) {
            d.styles = {made("hours > 4", {"work"}, "#ffd080")};
            d.faces = {{"f", face::row({face::field(), face::text("!")})}};
            d.column("work")->face = "f";
            d.groups.emplace_back().key.field = "status";
        });
        QTRY_VERIFY(grid().snapshot()->grouped);
        int coloured = 0;
        for (std::int64_t line = 0; line < 14; ++line) {
            if (!grid().recordAt(line).isValid()) continue;
            const bool holds = grid().recordAt(line).text("hours").toDouble() > 4;
            QCOMPARE(behind(line, "work") == QColor("#ffd080"), holds);
            coloured += holds;
        }
        QVERIFY(coloured > 2);
    }
};

QTEST_MAIN(StylesTest)
#include "tst_styles.moc"
