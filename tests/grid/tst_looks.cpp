// SPDX-License-Identifier: MIT
// Looks: texts of every look stand out from all that is behind them, whatever colours a builder gives; a grid follows
// its design's look, the application's and the system's; density, lines, stripes and the cross-light are by choice.
#include <QtTest>

#include <QImage>
#include <random>

#include "grid/paint/contrast.h"
#include "grid/paint/looks.h"
#include "tests/grid/grid_fixture.h"

using namespace jollyrow;

namespace {

/// The least contrast of a look's texts to what they stand on.
double leastContrast(const Tokens& t) {
    double least = 21;
    for (const QColor& behind : {t.paper, t.stripe, t.page, t.panel, t.panel2, t.group2, t.hoverRow, t.tealPale})
        for (const QColor& text : {t.ink, t.ink2}) least = std::min(least, contrast(text, behind));
    for (const QColor& behind : {t.paper, t.page, t.panel})
        for (const QColor& text : {t.tealText, t.buoyText, t.brassText})
            least = std::min(least, contrast(text, behind));
    return std::min(least, contrast(t.onTeal, t.teal));
}

}  // namespace

class LooksTest : public QObject {
    Q_OBJECT
    std::unique_ptr<GridFixture> f_;
    Grid& grid() { return f_->grid; }
    void open(const std::function<void(Design&)>& change = {}) {
        f_ = std::make_unique<GridFixture>();
        if (change) change(f_->design);
        QVERIFY(f_->open());
    }
    QImage seen() { return grid().viewport()->grab().toImage(); }

  private Q_SLOTS:
    void cleanup() {
        f_.reset();
        setApplicationLook({"yard"});
        QApplication::setPalette(QPalette());
    }

    void readyLooksAreLegible() {
        for (const std::string_view name : kReadyLooks)
            for (const Theme theme : {Theme::Light, Theme::Dark}) {
                const Tokens t = readyLook(name, theme);
                QVERIFY2(
                    leastContrast(t) >= (name == "contrast" ? 7 : 4.5),
                    qPrintable(QString("%1 %2").arg(QString::fromStdString(std::string(name))).arg(leastContrast(t))));
                QCOMPARE(t.dark, theme == Theme::Dark);
                // Marks are no text: 3:1 (WCAG 2, 1.4.11).
                for (const QColor& mark : {t.teal, t.buoy, t.brass, t.blue, t.ink3})
                    QVERIFY(contrast(mark, t.paper) >= 3);
            }
    }

    /// Random colours: every text is legible, or it is said that it cannot be.
    void anyColoursMakeALegibleLookOrItIsSaid() {
        std::mt19937 random(9);
        int legibles = 0;
        for (int round = 0; round < 400; ++round) {
            LookDesign look;
            look.base = std::string(kReadyLooks[random() % kReadyLooks.size()]);
            for (const std::string_view name : kLookColours)
                if (random() % 3 == 0)
                    look.light.emplace(name, QColor::fromRgb(random() | 0xff000000U).name().toStdString());
            std::vector<std::string> adjusted, failed;
            const Tokens t = ownLook(look, Theme::Light, &adjusted, &failed);
            const double least = look.base == "contrast" ? 6.9 : 4.4;
            if (failed.empty()) QVERIFY2(leastContrast(t) >= least, qPrintable(QString::number(leastContrast(t))));
            legibles += failed.empty() ? 1 : 0;
        }
        QVERIFY2(legibles > 20, qPrintable(QString::number(legibles)));
    }

    void whatIsGivenStandsAndTheRestFollows() {
        LookDesign look{"Own", "slate", {{"teal", "#8a3b12"}, {"panel", "#f3ece4"}}, {}};
        const Tokens t = ownLook(look, Theme::Light), base = readyLook("slate", Theme::Light);
        QCOMPARE(t.teal, QColor("#8a3b12"));
        QCOMPARE(t.panel, QColor("#f3ece4"));
        QCOMPARE(t.paper, base.paper);
        QVERIFY(t.tealPale != base.tealPale && t.tealPale.hslHue() != base.tealPale.hslHue());
        const Tokens dark = ownLook(look, Theme::Dark), darkBase = readyLook("slate", Theme::Dark);
        QCOMPARE(dark.teal, darkBase.teal);
        look.light["tealPale"] = "#ffffff";
        QCOMPARE(ownLook(look, Theme::Light).tealPale, QColor("#ffffff"));
    }

    void aGridFollowsItsDesignTheApplicationAndTheSystem() {
        open();
        const QImage yard = seen();
        for (const char* name : {"slate", "chart", "contrast"}) {
            grid().changeDesign([&](Design& d) { d.grid.look = name; });
            QVERIFY2(seen() != yard, name);
            QCOMPARE(grid().look().paper, readyLook(name, Theme::Light).paper);
        }
        grid().changeDesign([](Design& d) { d.grid.look.clear(); });
        QCOMPARE(seen(), yard);
        setApplicationLook({"chart"});
        QCOMPARE(grid().look().teal, readyLook("chart", Theme::Light).teal);
        grid().changeDesign([](Design& d) { d.grid.look = "slate"; });  // its own goes before
        QCOMPARE(grid().look().teal, readyLook("slate", Theme::Light).teal);
        setApplicationLook({"yard"});
        // The system turns dark.
        QApplication::setPalette(paletteFor(Theme::Dark));
        QTRY_COMPARE(grid().look().paper, readyLook("slate", Theme::Dark).paper);
        grid().changeDesign([](Design& d) { d.grid.theme = GridTheme::Light; });
        QCOMPARE(grid().look().paper, readyLook("slate", Theme::Light).paper);
        // A name that nobody has: the usual one.
        grid().changeDesign([](Design& d) { d.grid.look = "nobody's"; });
        QCOMPARE(grid().look().paper, readyLook("yard", Theme::Light).paper);
    }

    void aLookOfTheDesignIsSeenAtOnce() {
        open([](Design& d) {
            d.looks = {{"Own", "yard", {{"paper", "#ffeedd"}}, {}}};
            d.grid.look = "Own";
            d.grid.stripes = false;
        });
        const QPoint empty(grid().places().cell(3, "work").right() - 3, grid().places().cell(3, "work").center().y());
        QCOMPARE(QColor(seen().pixel(empty)), QColor("#ffeedd"));
        grid().changeDesign([](Design& d) { d.looks[0].light["paper"] = "#ddeeff"; });
        QCOMPARE(QColor(seen().pixel(empty)), QColor("#ddeeff"));
        // What opens in the grid has its colours too.
        grid().selection().setCurrentCell(2, 2);
        QVERIFY(grid().records().editCurrentCell());
        QCOMPARE(&tokensAt(*QApplication::focusWidget()), &grid().look());
    }

    /// Whatever is kept between frames: a grid that has changed its look is, pixel by pixel, one that opened with it.
    void nothingIsLeftOfAnotherLook() {
        const auto faces = [](Design& d) {
            d.faces = {
                {"status",
                 face::row({face::mark({{"value = 'Done'", "teal", MarkShape::Tick}, {"", "brass", MarkShape::Half}}),
                            face::field()})},
                {"hours", face::bar()}};
            d.column("status")->face = "status";
            d.column("hours")->face = "hours";
            d.grid.filterRow = true;
            d.banners = {{"number = 3", "{work}"}};
        };
        for (const char* name : {"contrast", "chart", "slate"})
            for (const GridTheme theme : {GridTheme::Light, GridTheme::Dark}) {
                open([&](Design& d) {
                    faces(d);
                    d.grid.look = name;
                    d.grid.theme = theme;
                });
                QTest::mouseMove(grid().viewport(), QPoint(2, 2));
                QTest::qWait(60);  // all that comes later has come
                const QImage fresh = seen();
                open(faces);
                QTest::mouseMove(grid().viewport(), QPoint(2, 2));
                seen();
                grid().changeDesign([&](Design& d) {
                    d.grid.look = name;
                    d.grid.theme = theme;
                });
                QTRY_VERIFY2(seen() == fresh, qPrintable(QString("%1 %2").arg(name).arg(static_cast<int>(theme))));
            }
    }

    void theCrossLightIsByChoice() {
        open([](Design& d) { d.grid.stripes = false; });
        const QRect cell = grid().places().cell(4, "work"), above = grid().places().cell(1, "work");
        const QPoint here(cell.right() - 3, cell.center().y()), column(above.right() - 3, above.center().y());
        const QRgb still = seen().pixel(here);
        QTest::mouseMove(grid().viewport(), QPoint(2, 2));
        QTest::mouseMove(grid().viewport(), here);
        QVERIFY(seen().pixel(here) != still);
        QVERIFY(seen().pixel(column) != still);
        grid().changeDesign([](Design& d) { d.grid.crossLight = false; });
        QCOMPARE(seen().pixel(here), still);
        QCOMPARE(seen().pixel(column), still);
    }
};

QTEST_MAIN(LooksTest)
#include "tst_looks.moc"
