// SPDX-License-Identifier: MIT
// Styles without a window: SQLite says where conditions hold; a plain loop what of several styles applies; scales
// between the least and greatest value shown, over edits and filters.
#include <QtTest>

#include <cmath>
#include <random>

#include "core/design/design_file.h"
#include "core/design/make_design.h"
#include "core/rows/rowline.h"
#include "core/session/schema_for.h"
#include "core/session/view_input.h"
#include "tests/sources/database.h"

using namespace jollyrow;

namespace {

constexpr const char* kSql = R"SQL(
CREATE TABLE boats (id INTEGER PRIMARY KEY, name TEXT, stars INTEGER, length DECIMAL(6,2), afloat BOOLEAN);
WITH RECURSIVE c(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM c WHERE i < 60)
INSERT INTO boats SELECT i, CASE WHEN i % 9 = 0 THEN NULL ELSE 'boat ' || i % 7 END, CASE WHEN i % 5 <> 0 THEN i % 11 - 3 END,
  CASE WHEN i = 13 THEN 'long' WHEN i % 8 = 0 THEN NULL ELSE i * 1.25 - 20 END, i % 3 = 0 FROM c;
)SQL";

StyleDesign style(const char* name, const char* where, std::vector<std::string> columns = {}) {
    StyleDesign made;
    made.name = name;
    made.where = where;
    made.columns = std::move(columns);
    made.background = "teal";
    return made;
}

}  // namespace

class StyleTest : public QObject {
    Q_OBJECT
    QTemporaryDir folder_;
    QString path_ = folder_.filePath("boats.db");

    Design design() const {
        auto source = openSource(path_.toStdString());
        return designFor(*(*source)->schema({"boats", ""}), {"sqlite", path_.toStdString(), "boats", ""});
    }
    struct Seen {
        ViewPlan plan;
        std::shared_ptr<const Snapshot> snapshot;
        CellStyle of(std::uint32_t row, const char* field) const {
            StyleReader reader(*snapshot, plan.styles);
            return reader.of(static_cast<SourceRow>(row), *snapshot->table->schema.find(field));
        }
    };
    Seen seen(const Design& design, std::shared_ptr<const Edits> edits = std::make_shared<Edits>()) const {
        auto source = openSource(path_.toStdString());
        const TableSchema schema = *schemaFor(**source, design);
        Seen out{planOf(design, schema), nullptr};
        const auto table =
            (*source)->load(loadRequest(design, schema, std::vector<bool>(schema.fields.size(), true), {}), Cancel());
        out.snapshot = *Rowline().run(viewInput(out.plan, *table, std::move(edits), {}), Cancel());
        return out;
    }
    std::vector<std::uint32_t> fromSqlite(const std::string& where) const {
        sqlite3* db = nullptr;
        sqlite3_open(path_.toUtf8().constData(), &db);
        std::vector<std::uint32_t> rows;
        const auto take = [](void* out, int, char** values, char**) {
            static_cast<std::vector<std::uint32_t>*>(out)->push_back(
                static_cast<std::uint32_t>(std::atoi(values[0]) - 1));
            return 0;
        };
        if (sqlite3_exec(db, ("SELECT id FROM boats WHERE typeof(length) <> 'text' AND (" + where + ")").c_str(), take,
                         &rows, nullptr) != SQLITE_OK)
            qFatal("%s", sqlite3_errmsg(db));
        sqlite3_close(db);
        return rows;
    }

  private Q_SLOTS:
    void initTestCase() { run(path_, kSql); }

    void conditionsHoldWhereTheDatabaseSaysSo() {
        for (const char* rule : {"stars > 2", "name IS NULL", "afloat AND length < 10", "NOT afloat", "name LIKE '%3'",
                                 "COALESCE(stars, 9) = 9", "length BETWEEN -5 AND 5 OR stars = 1"}) {
            Design d = design();
            d.styles = {style("s", rule)};
            const Seen s = seen(d);
            QVERIFY2(s.plan.findings.empty(), rule);
            const auto holds = fromSqlite(rule);
            for (std::uint32_t row = 0; row < 60; ++row) {
                if (row == 12) continue;  // its length is a text
                const bool expected = std::find(holds.begin(), holds.end(), row) != holds.end();
                QVERIFY2(s.of(row, "name").isPlain() != expected, qPrintable(QString("%1, %2").arg(rule).arg(row)));
            }
        }
    }

    void valueIsThatOfEachCell() {
        Design d = design();
        d.styles = {style("s", "value > 3", {"stars", "length"})};
        const Seen s = seen(d);
        QVERIFY(s.plan.findings.empty());
        for (const char* field : {"stars", "length"}) {
            const auto holds = fromSqlite(std::string(field) + " > 3");
            for (std::uint32_t row = 0; row < 60; ++row)
                if (row != 12)
                    QCOMPARE(!s.of(row, field).isPlain(), std::find(holds.begin(), holds.end(), row) != holds.end());
        }
        QVERIFY(s.of(30, "name").isPlain());
    }

    /// Of each property the first style that sets it, down to one that says so; whatever the styles.
    void theFirstThatSetsAPropertyApplies() {
        std::mt19937 random(23);
        const char* rules[] = {"", "stars > 2", "afloat", "name IS NOT NULL", "value = 4", "length > 0"};
        for (int turn = 0; turn < 60; ++turn) {
            Design d = design();
            for (unsigned i = 0, n = 1 + random() % 6; i < n; ++i) {
                StyleDesign one = style(std::to_string(i).c_str(), rules[random() % 6]);
                one.columns = random() % 2 || one.where.starts_with("value") ? std::vector<std::string>{"stars"}
                                                                             : std::vector<std::string>{};
                one.ink = random() % 2 ? "buoy" : "";
                one.background = random() % 2 ? "brass" : "";
                one.weight = static_cast<LineWeight>(random() % 4);
                one.strike = random() % 3 == 0;
                one.italic = random() % 3 == 0;
                if (!one.columns.empty() && random() % 2) one.icons = {{MarkShape::Disc, one.name}};
                one.last = random() % 4 == 0;
                one.on = random() % 5 != 0;
                d.styles.push_back(one);
            }
            const Seen all = seen(d);
            std::vector<Seen> alone;
            for (const StyleDesign& one : d.styles) {
                Design only = d;
                only.styles = {one};
                only.styles.front().ink = "ink";  // to see that it applies
                alone.push_back(seen(only));
            }
            for (std::uint32_t row = 0; row < 60; row += 7)
                for (const char* field : {"stars", "name"}) {
                    std::string ink, background;
                    LineWeight weight = LineWeight::Theme;
                    bool strike = false, italic = false;
                    std::string icon;
                    for (std::size_t i = 0; i < d.styles.size(); ++i) {
                        if (!alone[i].of(row, field).ink) continue;
                        const StyleDesign& one = d.styles[i];
                        if (ink.empty() && !one.ink.empty()) ink = one.name;
                        if (background.empty() && !one.background.empty()) background = one.name;
                        if (weight == LineWeight::Theme) weight = one.weight;
                        strike = strike || one.strike;
                        italic = italic || one.italic;
                        if (icon.empty() && !one.icons.empty()) icon = one.name;
                        if (one.last) break;
                    }
                    const CellStyle is = all.of(row, field);
                    QCOMPARE(is.ink ? is.ink->name : std::string(), ink);
                    QCOMPARE(is.background ? is.background->name : std::string(), background);
                    QVERIFY(is.weight == weight && is.strike == strike && is.italic == italic);
                    QCOMPARE(is.icon ? is.icon->colour : std::string(), icon);
                }
        }
    }

    void aScaleGoesFromTheLeastToTheGreatestShown() {
        Design d = design();
        d.styles = {style("s", "", {"length"})};
        d.styles.front().lowest = "blue";
        d.styles.front().highest = "buoy";
        Seen s = seen(d);
        QCOMPARE(s.of(0, "length").part, 0.0);    // -18.75 is the least
        QCOMPARE(s.of(59, "length").part, 1.0);   // 55 the greatest
        QVERIFY(!s.of(7, "length").background);   // empty
        QVERIFY(!s.of(12, "length").background);  // no number
        QVERIFY(std::abs(s.of(29, "length").part - (17.5 + 18.75) / 73.75) < 1e-9);
        d.filter = {{"id BETWEEN 20 AND 30", "", "", true}};
        s = seen(d);
        QCOMPARE(s.of(19, "length").part, 0.0);
        QCOMPARE(s.of(29, "length").part, 1.0);
        QCOMPARE(s.of(0, "length").part, 0.0);  // below the least is the least
        auto edits = std::make_shared<Edits>();
        const FieldIndex length = *s.snapshot->table->schema.find("length");
        edits->set(static_cast<SourceRow>(24), length, {Decimal{100'000, 2}, Empty{}, EditState::Saving, {}});
        s = seen(d, edits);
        QCOMPARE(s.of(24, "length").part, 1.0);
        QVERIFY(s.of(29, "length").part < 0.05);
    }

    /// Parts of one size from the least value to the greatest; the greatest is in the last.
    void iconsGoByTheValue() {
        Design d = design();
        d.styles = {style("s", "", {"length"})};
        d.styles.front().icons = {{MarkShape::Cross}, {MarkShape::Dash}, {MarkShape::Tick}};
        const Seen s = seen(d);
        QVERIFY(s.plan.findings.empty());
        for (std::uint32_t row = 0; row < 60; ++row) {
            const CellStyle is = s.of(row, "length");
            if (row == 12 || (row + 1) % 8 == 0) {
                QVERIFY(!is.icon);  // no number
                continue;
            }
            const double place = (row * 1.25) / 73.75;
            const MarkShape shape = place < 1.0 / 3   ? MarkShape::Cross
                                    : place < 2.0 / 3 ? MarkShape::Dash
                                                      : MarkShape::Tick;
            QCOMPARE(is.icon->shape, shape);
        }
        QVERIFY(!s.of(0, "name").icon);
    }

    void whatCannotBeHadIsSaid_data() {
        QTest::addColumn<QString>("wrong");
        for (const char* wrong :
             {"iconOfNothing", "column", "condition", "notBoolean", "window", "scaleOfText", "scaleOfNothing"})
            QTest::newRow(wrong) << wrong;
    }
    void whatCannotBeHadIsSaid() {
        QFETCH(QString, wrong);
        Design d = design();
        StyleDesign bad = style("odd", "stars > 1", {"stars"});
        if (wrong == "column") bad.columns = {"stairs"};
        if (wrong == "condition") bad.where = "stars >";
        if (wrong == "notBoolean") bad.where = "stars + 1";
        if (wrong == "window") bad.where = "stars > AVG(stars) OVER ()";
        if (wrong == "scaleOfText") bad.columns = {"name"}, bad.lowest = bad.highest = "teal";
        if (wrong == "scaleOfNothing") bad.columns.clear(), bad.lowest = bad.highest = "teal";
        if (wrong == "iconOfNothing") bad.columns.clear(), bad.icons = {{MarkShape::Tick}};
        d.styles = {bad, style("sound", "stars > 1")};
        const Seen s = seen(d);
        QCOMPARE(s.plan.findings.size(), std::size_t{1});
        QVERIFY(s.plan.findings.front().message.find("odd") != std::string::npos);
        QCOMPARE(s.plan.styles.size(), std::size_t{1});
    }

    void anOddFileBecomesDefaults() {
        const auto read = designFromJson(
            R"({"jollyrow": 1, "styles": [5, {"name": "a", "ink": "red", "lowest": "teal", "glow": 1}]})");
        QVERIFY(read.ok());
        QCOMPARE(read->design.styles.size(), std::size_t{1});
        QVERIFY(read->design.styles[0].lowest.empty() && read->design.styles[0].ink.empty());
        QCOMPARE(read->findings.size(), std::size_t{4});
        QVERIFY(toJson(read->design).find("glow") != std::string::npos);
    }

    void iconsAndLinesComeBack() {
        Design d = design();
        StyleDesign one = style("a", "COUNT(*) > 1", {"length"});
        one.lines = StyledLines::Groups;
        one.italic = true;
        one.lowest = "blue";
        one.middle = "#ffffff";
        one.highest = "buoy";
        one.icons = {{MarkShape::Ring, "teal", {}}, {MarkShape::Disc, "", {}}};
        d.styles = {one, style("b", "")};
        d.styles[1].lines = StyledLines::Totals;
        const auto read = designFromJson(toJson(d));
        QVERIFY(read.ok());
        QVERIFY(read->findings.empty());
        QVERIFY(read->design.styles == d.styles);
        const auto odd = designFromJson(
            R"({"jollyrow": 1, "styles": [{"name": "a", "icons": [3, {"shape": "star"}, {"shape": "ring", "spin": 1}]}]})");
        QCOMPARE(odd->design.styles[0].icons.size(), std::size_t{2});
        QCOMPARE(odd->findings.size(), std::size_t{3});
        QVERIFY(toJson(odd->design).find("spin") != std::string::npos);
    }
};

QTEST_GUILESS_MAIN(StyleTest)
#include "style_test.moc"
