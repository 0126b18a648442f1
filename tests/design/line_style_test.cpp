// SPDX-License-Identifier: MIT
// Styles of group lines and totals without a window: SQLite's GROUP BY and HAVING say where conditions hold and between
// which figures a scale goes; what cannot be had is said; edits and filters are followed.
#include <QtTest>

#include <random>
#include <set>

#include "core/design/planned_line_style.h"
#include "core/rows/rowline.h"
#include "core/session/schema_for.h"
#include "core/session/view_input.h"
#include "tests/sources/database.h"

using namespace jollyrow;

namespace {

constexpr const char* kSql = R"SQL(
CREATE TABLE jobs (id INTEGER PRIMARY KEY, status TEXT, yard TEXT, hours DECIMAL(8,2), rate INTEGER, paid BOOLEAN);
WITH RECURSIVE c(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM c WHERE i < 400)
INSERT INTO jobs SELECT i, CASE WHEN i % 17 = 0 THEN NULL ELSE 'status ' || (i % 5) END, 'yard ' || (i * 7 % 11),
  CASE WHEN i % 13 = 0 THEN NULL ELSE (i * 37 % 1000) * 0.25 - 40 END, i % 9 - 2, i % 3 = 0 FROM c;
)SQL";

StyleDesign style(StyledLines lines, const char* where, std::vector<std::string> columns = {}) {
    StyleDesign made;
    made.name = "s";
    made.lines = lines;
    made.where = where;
    made.columns = std::move(columns);
    made.background = "teal";
    return made;
}

}  // namespace

class LineStyleTest : public QObject {
    Q_OBJECT
    QTemporaryDir folder_;
    QString path_ = folder_.filePath("jobs.db");

    struct Seen {
        ViewPlan plan;
        std::shared_ptr<const Snapshot> snapshot;
    };
    Design design() const {
        auto source = openSource(path_.toStdString());
        Design d = designFor(*(*source)->schema({"jobs", ""}), {"sqlite", path_.toStdString(), "jobs", ""});
        d.groups.resize(2);
        d.groups[0].key.field = "status";
        d.groups[1].key.field = "yard";
        for (const char* field : {"hours", "rate"}) {
            SummaryDesign& sum = d.summaries.emplace_back();
            sum.name = std::string(field) + "_sum";
            sum.column = field;
            sum.show = SummaryShow::Sum;
        }
        return d;
    }
    Seen seen(const Design& design, std::shared_ptr<const Edits> edits = std::make_shared<Edits>()) const {
        auto source = openSource(path_.toStdString());
        const TableSchema schema = *schemaFor(**source, design);
        Seen out{planOf(design, schema), nullptr};
        const auto table =
            (*source)->load(loadRequest(design, schema, std::vector<bool>(schema.fields.size(), true), {}), Cancel());
        RowlineInput input = viewInput(out.plan, *table, std::move(edits), {});
        input.grouping = out.plan.grouping;
        input.figuresOfAll = true;
        out.snapshot = *Rowline().run(input, Cancel());
        return out;
    }
    std::vector<QStringList> query(const std::string& sql) const {
        sqlite3* db = nullptr;
        sqlite3_open(path_.toUtf8().constData(), &db);
        std::vector<QStringList> rows;
        const auto take = [](void* out, int count, char** values, char**) {
            QStringList row;
            for (int i = 0; i < count; ++i) row << (values[i] ? QString::fromUtf8(values[i]) : QStringLiteral("∅"));
            static_cast<std::vector<QStringList>*>(out)->push_back(row);
            return 0;
        };
        if (sqlite3_exec(db, sql.c_str(), take, &rows, nullptr) != SQLITE_OK) qFatal("%s", sqlite3_errmsg(db));
        sqlite3_close(db);
        return rows;
    }
    /// "status/yard" of a node, "status" of an outer one.
    static QString nameOf(const GroupTree& tree, std::uint32_t at) {
        const auto text = [&](const GroupNode& node) {
            const EvaluatedCell key = tree.key(node);
            const auto* words = std::get_if<std::string>(&key.value);
            return words ? QString::fromStdString(*words) : QStringLiteral("∅");
        };
        const GroupNode& node = tree.nodes[at];
        if (node.level == 0) return text(node);
        return text(tree.nodes[tree.nodeAt(0, node.first)]) + "/" + text(node);
    }
    std::set<QString> styled(const Seen& s, std::optional<std::size_t> summary = std::nullopt) const {
        std::set<QString> names;
        const LineStyleReader reader(s.snapshot);
        const GroupTree& tree = *s.snapshot->groups->tree;
        for (std::uint32_t node = 0; node < tree.nodes.size(); ++node)
            if (reader.ofGroup(node, summary).background) names.insert(nameOf(tree, node));
        return names;
    }
    std::set<QString> fromSqlite(const std::string& having, const std::string& where = "1") const {
        std::set<QString> names;
        for (const char* keys : {"status", "status, yard"})
            for (const QStringList& row : query(std::string("SELECT ") + keys + " FROM jobs WHERE " + where +
                                                " GROUP BY " + keys + " HAVING " + having))
                names.insert(row.join(u'/'));
        return names;
    }

  private Q_SLOTS:
    void initTestCase() { run(path_, kSql); }

    void conditionsHoldWhereHavingSaysSo() {
        for (const char* rule :
             {"SUM(hours) > 1000", "COUNT(*) < 8", "AVG(rate) >= 2 AND MIN(hours) < 0",
              "COUNT(*) FILTER (WHERE paid) = 0", "SUM(hours) / COUNT(*) > 90", "MAX(rate) IS NULL",
              "SUM(rate) NOT BETWEEN 0 AND 20", "MAX(yard) IN ('yard 9', 'yard 8')", "MIN(yard) LIKE 'yard 1%'",
              "SUM(rate) BETWEEN 0 AND 9 OR COUNT(DISTINCT yard) > 10"}) {
            Design d = design();
            d.styles = {style(StyledLines::Groups, rule)};
            const Seen s = seen(d);
            QVERIFY2(s.plan.findings.empty(), s.plan.findings.empty() ? "" : s.plan.findings.front().message.c_str());
            QCOMPARE(styled(s), fromSqlite(rule));
            d.filter = {{"paid AND rate > 0", "", "", true}};
            QCOMPARE(styled(seen(d)), fromSqlite(rule, "paid AND rate > 0"));
        }
    }

    void editsAreFollowed() {
        Design d = design();
        d.styles = {style(StyledLines::Groups, "SUM(hours) > 1000000")};
        QVERIFY(styled(seen(d)).empty());
        auto edits = std::make_shared<Edits>();
        const Seen before = seen(d);
        edits->set(static_cast<SourceRow>(2), *before.snapshot->table->schema.find("hours"),
                   {Decimal{200'000'000, 2}, Empty{}, EditState::Saving, {}});

        QCOMPARE(styled(seen(d, edits)), (std::set<QString>{"status 3", "status 3/yard 10"}));
    }

    void aStyleOfColumnsIsOnTheirFigures() {
        Design d = design();
        d.styles = {style(StyledLines::Groups, "", {"hours"})};
        const Seen s = seen(d);
        QVERIFY(styled(s).empty());
        QCOMPARE(styled(s, 0).size(), s.snapshot->groups->tree->nodes.size());
        QVERIFY(styled(s, 1).empty());
        d.styles.front().columns.clear();
        QCOMPARE(styled(seen(d), 1).size(), s.snapshot->groups->tree->nodes.size());
    }

    /// Each level has its own ends; places between them are proportional.
    void aScaleGoesBetweenTheFiguresOfALevel() {
        Design d = design();
        StyleDesign scale = style(StyledLines::Groups, "", {"hours"});
        scale.lowest = "blue";
        scale.highest = "buoy";
        scale.icons = {{MarkShape::Ring}, {MarkShape::Half}, {MarkShape::Disc}};
        d.styles = {scale};
        const Seen s = seen(d);
        const LineStyleReader reader(s.snapshot);
        const GroupTree& tree = *s.snapshot->groups->tree;
        for (const char* keys : {"status", "status, yard"}) {
            std::map<QString, double> sums;
            double low = 1e300, high = -1e300;
            for (const QStringList& row :
                 query(std::string("SELECT SUM(hours), ") + keys + " FROM jobs GROUP BY " + keys)) {
                sums[row.mid(1).join(u'/')] = row[0].toDouble();
                low = std::min(low, row[0].toDouble());
                high = std::max(high, row[0].toDouble());
            }
            for (std::uint32_t node = 0; node < tree.nodes.size(); ++node) {
                const auto known = sums.find(nameOf(tree, node));
                if (known == sums.end()) continue;
                const CellStyle is = reader.ofGroup(node, 0);
                const double place = (known->second - low) / (high - low);
                QVERIFY(std::abs(is.part - place) < 1e-9);
                QCOMPARE(is.icon->shape, scale.icons[std::min<std::size_t>(2, std::size_t(place * 3))].shape);
                QVERIFY(!reader.ofGroup(node, 1).background);
            }
        }
    }

    void totalsHaveTheirOwn() {
        Design d = design();
        d.styles = {style(StyledLines::Totals, "COUNT(*) = 400"), style(StyledLines::Totals, "SUM(rate) < 0", {"rate"}),
                    style(StyledLines::Groups, "")};
        d.filter = {{"id <= 9", "", "", true}};
        const Seen s = seen(d);
        const LineStyleReader reader(s.snapshot);
        QVERIFY(!reader.ofTotal({}, std::nullopt).background);                       // nine are shown
        QVERIFY(reader.ofTotal(s.snapshot->figuresOfAll, std::nullopt).background);  // of all that there are
        QCOMPARE(reader.ofTotal(s.snapshot->figuresOfAll, 1).background != nullptr, true);
        QVERIFY(!reader.ofTotal({}, 1).background);  // 0 + -1 ... of nine is not below 0
    }

    /// Nobody sees the figures that conditions are; nothing changes in those that are seen.
    void theVisibleFiguresStayAsTheyAre() {
        Design d = design();
        const Seen plain = seen(d);
        d.styles = {style(StyledLines::Groups, "COUNT(*) > 3"), style(StyledLines::Totals, "COUNT(*) > 3")};
        const Seen with = seen(d);
        QCOMPARE(with.snapshot->groups->tree->nodes.size(), plain.snapshot->groups->tree->nodes.size());
        for (std::size_t figure = 0; figure < 2; ++figure)
            for (std::size_t node = 0; node < plain.snapshot->groups->tree->nodes.size(); ++node)
                QVERIFY(with.snapshot->groups->figure(figure, node).value ==
                        plain.snapshot->groups->figure(figure, node).value);
        QCOMPARE(with.plan.grouping->summaries.size(), std::size_t{2});
        // With stages passed over there is nothing to go by, and nothing is styled.
        d.summaries.clear();
        d.groups.clear();
        QVERIFY(!seen(d).snapshot->groups);
    }

    /// Of several columns those that are there keep it.
    void aColumnThatIsMissingIsSaid() {
        Design d = design();
        d.styles = {style(StyledLines::Groups, "", {"hours", "ours"})};
        const Seen s = seen(d);
        QCOMPARE(s.plan.findings.size(), std::size_t{1});
        QVERIFY(s.plan.findings.front().message.find("ours") != std::string::npos);
        QVERIFY(!styled(s, 0).empty());
    }

    void whatCannotBeHadIsSaid_data() {
        QTest::addColumn<QString>("where");
        QTest::addColumn<QString>("column");
        QTest::addColumn<bool>("ofTotals");
        QTest::newRow("no aggregate") << "hours > 3"
                                      << "" << false;
        QTest::newRow("broken") << "SUM(hours"
                                << "" << false;
        QTest::newRow("a number") << "SUM(hours)"
                                  << "" << true;
        QTest::newRow("no such column") << "COUNT(*) > 1"
                                        << "ours" << false;
        QTest::newRow("a scale of totals") << ""
                                           << "hours" << true;
        QTest::newRow("a scale of nothing") << ""
                                            << "" << false;
    }
    void whatCannotBeHadIsSaid() {
        QFETCH(QString, where);
        QFETCH(QString, column);
        QFETCH(bool, ofTotals);
        Design d = design();
        StyleDesign bad = style(ofTotals ? StyledLines::Totals : StyledLines::Groups, where.toUtf8().constData());
        if (!column.isEmpty()) bad.columns = {column.toStdString()};
        if (where.isEmpty()) bad.lowest = bad.highest = "teal";
        d.styles = {bad, style(StyledLines::Groups, "COUNT(*) > 0")};
        const Seen s = seen(d);
        QCOMPARE(s.plan.findings.size(), std::size_t{1});
        QCOMPARE(s.plan.findings.front().where, std::string("styles/s"));
        QVERIFY(!styled(s).empty());
    }
};

QTEST_GUILESS_MAIN(LineStyleTest)
#include "line_style_test.moc"
