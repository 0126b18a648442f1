// SPDX-License-Identifier: MIT
// What each ready face and kind of part looks like, light and dark, against pictures that a person has looked at
// (tests/grid/golden). Averages of small squares are compared, so that another version of the fonts does no harm and
// another colour, place or shape does. JOLLYROW_GOLDEN=1 writes the pictures anew: look at them before they are kept.
#include <QtTest>

#include <sqlite3.h>

#include "core/design/make_design.h"
#include "grid/api/grid.h"
#include "grid/pictures/picture_shelf.h"
#include "tests/sources/database.h"

using namespace jollyrow;

namespace {

/// @ for the number sign of colours and | for an address: moc takes them for a directive and a comment. Usual, longest,
/// negative or least, right-to-left, nothing.
constexpr const char* kSql = R"SQL(
CREATE TABLE boats (id INTEGER PRIMARY KEY, name TEXT, status TEXT, stars INTEGER, hours DECIMAL(8,2), parts DECIMAL(8,2),
  share INTEGER, readings NUMBER LIST, tint TEXT, afloat BOOLEAN, due DATE, picture BLOB);
INSERT INTO boats VALUES
 (1, 'Sandpiper', 'Booked', 3, 7.5, 2.25, 40, '[3, 1, 4, 1, 5, null, 9, 2, 6]', '@1e7f78', 1, '2026-11-23',
  CAST('<svg xmlns="|" viewBox="0 0 4 3"><rect width="4" height="3" fill="@3f6c9b"/><circle cx="2" cy="1.5" r="1" fill="@dfbb6c"/></svg>' AS BLOB)),
 (2, 'The Patient Oystercatcher of Kelpie Quay', 'Waiting for parts', 5, 112.25, 40, 130, '[1, 2, 3, 4, 5, 6, 7, 8]', '@d9482b', 0,
  '2026-12-31', CAST('no picture' AS BLOB)),
 (3, 'Low', 'Done', 0, -20.5, 0, 0, '[-3, 2, -1, 4]', '@000000', NULL, NULL, NULL),
 (4, 'نسيم الخليج', 'قيد العمل', 1, 0.01, 8, 5, '[2]', 'teal', 1, '2026-01-01', NULL),
 (5, NULL, NULL, NULL, NULL, NULL, NULL, NULL, NULL, NULL, NULL, NULL);
)SQL";

struct Case {
    const char* name;
    const char* column;
    std::function<FacePart()> face;  ///< none: the face by type
};

const std::vector<Case>& cases() {
    const auto ready = [](ReadyFace face) {
        return [face] { return readyFace(face, {"Booked", "Waiting for parts", "Done"}); };
    };
    static const std::vector<Case> kAll = {
        {"text", "name", {}},
        {"check", "afloat", {}},
        {"date", "due", {}},
        {"number", "hours", {}},
        {"picture", "picture", {}},
        {"status", "status", ready(ReadyFace::Status)},
        {"bar", "hours", ready(ReadyFace::Bar)},
        {"progress", "share", ready(ReadyFace::Progress)},
        {"rating", "stars", ready(ReadyFace::Rating)},
        {"duration", "hours", ready(ReadyFace::Duration)},
        {"trend", "readings", ready(ReadyFace::Trend)},
        {"swatch", "tint", ready(ReadyFace::Swatch)},
        {"link", "name", ready(ReadyFace::Link)},
        {"stacked", "hours",
         [] {
             BarDesign bar;
             bar.fields = {"hours", "parts"};
             return face::bar({}, bar);
         }},
        {"shares-of-a-list", "readings",
         [] {
             BarDesign bar;
             bar.shares = true;
             return face::bar({}, bar);
         }},
        {"trend-band", "readings",
         [] {
             TrendDesign trend;
             trend.look = TrendLook::Area;
             trend.marks = trend.band = true;
             trend.from = 2;
             trend.to = 5;
             return face::trend({}, trend);
         }},
        {"trend-columns", "readings", [] { return face::trend({}, TrendLook::Columns); }},
        {"two-lines", "name",
         [] {
             return face::row({face::mark({{"afloat", "teal", MarkShape::Tick}, {"", "buoy", MarkShape::Diamond}}),
                               face::column({face::field().sized(0, LineWeight::Medium),
                                             face::text("{status} · {hours} h").sized(-2).quiet()})
                                   .share(),
                               face::button("call", "Call")});
         }},
    };
    return kAll;
}

QImage averages(const QImage& image, int square) {
    return image.convertToFormat(QImage::Format_RGB32)
        .scaled(image.width() / square, image.height() / square, Qt::IgnoreAspectRatio, Qt::SmoothTransformation);
}

}  // namespace

class GoldenFacesTest : public QObject {
    Q_OBJECT
    QTemporaryDir folder_;
    QString path_ = folder_.filePath("boats.db");

    /// The cells of all records beneath each other, light at the left, dark at the right.
    QImage drawn(const Case& one) {
        auto source = openSource(path_.toStdString());
        Design design = designFor(*(*source)->schema({"boats", "", {}}), {"sqlite", path_.toStdString(), "boats", ""});
        for (ColumnDesign& column : design.columns) {
            column.shown = column.field == one.column || column.field == "id";
            column.width = {WidthMode::Fixed, column.field == one.column ? 180 : 40, 1, 32, 0};
        }
        design.grid.rowHeight = 36;
        design.grid.stripes = false;
        if (one.face) {
            design.faces = {{one.name, one.face()}};
            design.column(one.column)->face = one.name;
        }
        Grid grid;
        grid.resize(400, 400);
        if (!grid.open(design, path_).ok()) return {};
        grid.show();
        if (!QTest::qWaitForWindowExposed(&grid)) return {};
        if (!QTest::qWaitFor([&] { return !grid.isLoading() && grid.lineCount() == 5; }, 30'000)) return {};
        QImage all;
        for (const GridTheme theme : {GridTheme::Light, GridTheme::Dark}) {
            grid.changeDesign([&](Design& d) { d.grid.theme = theme; });
            (void)grid.viewport()->grab();  // pictures are asked for
            (void)QTest::qWaitFor([&] { return !grid.pictures().isBusy(); }, 30'000);
            const QRect first = grid.places().cell(0, one.column), last = grid.places().cell(4, one.column);
            const QImage cells = grid.viewport()->grab().toImage().copy(first.united(last));
            if (all.isNull()) {
                all = QImage(cells.width() * 2, cells.height(), QImage::Format_RGB32);
                all.fill(Qt::white);
            }
            QPainter(&all).drawImage(theme == GridTheme::Light ? 0 : cells.width(), 0, cells);
        }
        return all;
    }

  private Q_SLOTS:
    void initTestCase() {
        run(path_, QString::fromUtf8(kSql)
                       .replace(u'@', u'#')
                       .replace(u'|', QStringLiteral("http:/"
                                                     "/www.w3.org/2000/svg"))
                       .toStdString());
    }

    void facesLookAsTheyDid_data() {
        QTest::addColumn<int>("index");
        for (std::size_t i = 0; i < cases().size(); ++i) QTest::newRow(cases()[i].name) << static_cast<int>(i);
    }
    void facesLookAsTheyDid() {
        QFETCH(int, index);
        const Case& one = cases()[static_cast<std::size_t>(index)];
        const QImage image = drawn(one);
        QVERIFY(!image.isNull());
        const QString file = QStringLiteral(SOURCE_DIR "/tests/grid/golden/%1.png").arg(one.name);
        if (qEnvironmentVariableIsSet("JOLLYROW_GOLDEN")) {
            QVERIFY(image.save(file));
            return;
        }
        const QImage golden(file);
        QVERIFY2(!golden.isNull(), qPrintable(file));
        QCOMPARE(golden.size(), image.size());
        constexpr int kSquare = 6, kMostOfOne = 60;
        constexpr double kMostOfAll = 2.5;  // of 255, on the average
        const QImage was = averages(golden, kSquare), is = averages(image, kSquare);
        double sum = 0;
        int worst = 0;
        QPoint at;
        for (int y = 0; y < is.height(); ++y)
            for (int x = 0; x < is.width(); ++x) {
                const QColor a = was.pixelColor(x, y), b = is.pixelColor(x, y);
                const int by = std::max(
                    {std::abs(a.red() - b.red()), std::abs(a.green() - b.green()), std::abs(a.blue() - b.blue())});
                sum += by;
                if (by > worst) worst = by, at = {x * kSquare, y * kSquare};
            }
        const double mean = sum / (is.width() * is.height());
        QVERIFY2(
            worst <= kMostOfOne && mean <= kMostOfAll,
            qPrintable(QString("%1 off at %2, %3; %4 on the average").arg(worst).arg(at.x()).arg(at.y()).arg(mean)));
    }

    /// The comparison sees what it is for: another colour of a bar, a mark that is away.
    void theComparisonSeesDifferences() {
        const QImage bar(QStringLiteral(SOURCE_DIR "/tests/grid/golden/bar.png"));
        const QImage number(QStringLiteral(SOURCE_DIR "/tests/grid/golden/number.png"));
        QVERIFY(!bar.isNull() && !number.isNull());
        const QImage a = averages(bar, 6), b = averages(number, 6);
        int worst = 0;
        for (int y = 0; y < std::min(a.height(), b.height()); ++y)
            for (int x = 0; x < std::min(a.width(), b.width()); ++x)
                worst = std::max(worst, std::abs(a.pixelColor(x, y).red() - b.pixelColor(x, y).red()));
        QVERIFY(worst > 60);
    }
};

QTEST_MAIN(GoldenFacesTest)
#include "tst_golden_faces.moc"
