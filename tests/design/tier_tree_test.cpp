// SPDX-License-Identifier: MIT
// Header tiers: for any tree and any sequence of moves, hides, folds and pins, every shown column has one heading cell
// in each tier it lies under, spans are whole, and the columns stand in the order of the leaves. Checked on random
// sequences against the plain meaning of the design, and on trees that a file may hold by mistake.
#include <QtTest>

#include <random>
#include <set>

#include "core/design/design_file.h"
#include "core/design/plan.h"
#include "core/design/tier_tree.h"
#include "tests/turns.h"

using namespace jollyrow;

namespace {

TableSchema schemaOf(int fields) {
    TableSchema schema;
    schema.name = "jobs";
    for (int i = 0; i < fields; ++i) {
        FieldSchema field;
        field.name = "c" + std::to_string(i);
        schema.fields.push_back(field);
    }
    return schema;
}

Design plainDesign(int fields) {
    Design design;
    for (int i = 0; i < fields; ++i) {
        ColumnDesign column;
        column.field = column.heading = "c" + std::to_string(i);
        design.columns.push_back(column);
    }
    return design;
}

/// "c0 [T: c1 [U: c2 c3]] c4^c5": the design as a nested text; ^ stands beneath.
std::string written(const Design& design) {
    std::string out;
    std::vector<std::string> open;
    for (const ColumnDesign& column : design.columns) {
        const auto path = tierPath(design, column.tier);
        std::size_t same = 0;
        while (same < path.size() && same < open.size() && path[same] == open[same]) ++same;
        for (std::size_t i = open.size(); i > same; --i) out += "]";
        if (!out.empty()) out += column.under.empty() ? " " : "^";
        for (std::size_t i = same; i < path.size(); ++i) out += "[" + path[i] + ": ";
        out += column.field;
        open = path;
    }
    for (std::size_t i = 0; i < open.size(); ++i) out += "]";
    return out;
}

/// What must hold of any plan, whatever was done before. Empty when it does.
std::string violation(const Design& design, const TableSchema& schema) {
    const ViewPlan plan = planOf(design, schema);
    std::vector<std::string> order, shown;
    for (const ColumnDesign& column : design.columns) order.push_back(column.field);
    for (const PlannedColumn& column : plan.columns) shown.push_back(column.design.field);
    std::size_t at = 0;
    for (const std::string& field : shown) {
        while (at < order.size() && order[at] != field) ++at;
        if (at++ >= order.size()) return "shown columns are not in the order of the leaves";
    }
    std::set<std::string> seen;
    for (const PlannedTier& tier : plan.tiers) {
        if (!seen.insert(tier.design.name).second) return tier.design.name + " is torn";
        if (tier.first >= tier.end) return tier.design.name + " is empty and shown";
        for (int i = 0; i < static_cast<int>(plan.columns.size()); ++i) {
            const auto path = tierPath(design, plan.columns[static_cast<std::size_t>(i)].design.tier);
            const bool under = std::find(path.begin(), path.end(), tier.design.name) != path.end();
            if (under != (i >= tier.first && i < tier.end)) return tier.design.name + " does not span what is under it";
            if (under && path[static_cast<std::size_t>(tier.level)] != tier.design.name) return "wrong level";
        }
    }
    for (const PlannedColumn& column : plan.columns) {
        const auto path = tierPath(design, column.design.tier);
        if (static_cast<int>(path.size()) != column.levels) return "wrong number of tiers over " + column.design.field;
        for (const std::string& name : path)
            if (!seen.contains(name)) return name + " is not shown over " + column.design.field;
        const auto& top = plan.columns[static_cast<std::size_t>(plan.places[static_cast<std::size_t>(column.place)])];
        if (column.line > 0 && top.design.field != column.design.under) return "beneath another one";
    }
    // No two columns on one place of one line.
    std::set<std::pair<int, int>> taken;
    for (const PlannedColumn& column : plan.columns)
        for (int i = 0; i < column.span; ++i)
            if (!taken.insert({column.place + i, column.line}).second) return "two columns on one place";
    Design again = design;
    if (!settleTiers(again).empty() && !design.tiers.empty()) {
        for (const Finding& finding : settleTiers(again))
            if (finding.severity != Severity::Note) return "left unsettled: " + finding.message;
    }
    if (!(again == design)) return "settling changes what an operation left";
    return {};
}

}  // namespace

class TierTreeTest : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void operations_data() {
        using Do = std::function<void(Design&)>;
        QTest::addColumn<Do>("act");
        QTest::addColumn<QString>("expected");
        const auto row = [](const char* tag, Do act, const char* expected) { QTest::newRow(tag) << act << expected; };
        row(
            "make over two",
            [](Design& d) {
                makeTier(d, {"c1", "c3"}, "T");
            },
            "c0 [T: c1 c3] c2 c4");
        row(
            "make inside",
            [](Design& d) {
                makeTier(d, {"c1", "c2", "c3"}, "T"), makeTier(d, {"c2", "c3"}, "U");
            },
            "c0 [T: c1 [U: c2 c3]] c4");
        row(
            "make around a tier",
            [](Design& d) {
                makeTier(d, {"c1", "c2"}, "T"), makeTier(d, {"c1", "c2", "c3"}, "U");
            },
            "c0 [U: [T: c1 c2] c3] c4");
        row(
            "same words twice", [](Design& d) { makeTier(d, {"c0"}, "T"), makeTier(d, {"c2"}, "T"); },
            "[T: c0] c1 [T 2: c2] c3 c4");
        row(
            "join",
            [](Design& d) {
                makeTier(d, {"c1", "c2"}, "T"), moveColumns(d, {"c4"}, {"T", "c2"});
            },
            "c0 [T: c1 c4 c2] c3");
        row(
            "leave before",
            [](Design& d) {
                makeTier(d, {"c1", "c2"}, "T"), moveColumns(d, {"c2"}, {"", "c1"});
            },
            "c0 c2 [T: c1] c3 c4");
        row(
            "the last leaves",
            [](Design& d) {
                makeTier(d, {"c1"}, "T"), moveColumns(d, {"c1"}, {"", ""});
            },
            "c0 c2 c3 c4 c1");
        row(
            "several",
            [](Design& d) {
                makeTier(d, {"c0"}, "T"), moveColumns(d, {"c3", "c1"}, {"T", ""});
            },
            "[T: c0 c3 c1] c2 c4");
        row(
            "before itself",
            [](Design& d) {
                moveColumns(d, {"c1", "c2"}, {"", "c2"});
            },
            "c0 c1 c2 c3 c4");
        row(
            "move a tier",
            [](Design& d) {
                makeTier(d, {"c0", "c1"}, "T"), moveTier(d, "T", {"", ""});
            },
            "c2 c3 c4 [T: c0 c1]");
        row(
            "tier into tier",
            [](Design& d) {
                makeTier(d, {"c0", "c1"}, "T"), makeTier(d, {"c3"}, "U"), moveTier(d, "T", {"U", "c3"});
            },
            "c2 [U: [T: c0 c1] c3] c4");
        row(
            "not into itself",
            [](Design& d) {
                makeTier(d, {"c0", "c1"}, "T"), makeTier(d, {"c1"}, "U"), moveTier(d, "T", {"U", ""});
            },
            "[T: c0 [U: c1]] c2 c3 c4");
        row(
            "dissolve",
            [](Design& d) {
                makeTier(d, {"c1", "c2"}, "T"), makeTier(d, {"c2"}, "U"), dissolveTier(d, "T");
            },
            "c0 c1 [U: c2] c3 c4");
        row(
            "beneath", [](Design& d) { putUnder(d, "c3", "c1"); }, "c0 c1^c3 c2 c4");
        row(
            "beneath, along with its own", [](Design& d) { putUnder(d, "c3", "c1"), putUnder(d, "c1", "c0"); },
            "c0^c3^c1 c2 c4");
        row(
            "out from beneath", [](Design& d) { putUnder(d, "c3", "c1"), putUnder(d, "c3", ""); }, "c0 c1 c3 c2 c4");
        row(
            "moves with what is beneath",
            [](Design& d) {
                putUnder(d, "c3", "c1"), makeTier(d, {"c1"}, "T"), moveTier(d, "T", {"", ""});
            },
            "c0 c2 c4 [T: c1^c3]");
        row(
            "by the API", [](Design& d) { d.tier("Cost").add("c2", "c1"), d.tier("All").addTier("Cost").add("c4"); },
            "c0 [All: [Cost: c2 c1] c4] c3");
        row(
            "no such field",
            [](Design& d) {
                makeTier(d, {"x"}, "T"), moveColumns(d, {"x"}, {"", ""});
            },
            "c0 c1 c2 c3 c4");
    }
    void operations() {
        QFETCH(std::function<void(Design&)>, act);
        QFETCH(QString, expected);
        Design design = plainDesign(5);
        act(design);
        QCOMPARE(QString::fromStdString(written(design)), expected);
        QCOMPARE(violation(design, schemaOf(5)), std::string());
    }

    void randomSequencesKeepHeadingsWhole() {
        constexpr int kFields = 12;
        const TableSchema schema = schemaOf(kFields);
        for (unsigned seed = 1; seed <= static_cast<unsigned>(test::turns(400)); ++seed) {
            std::mt19937 random(seed);
            Design design = plainDesign(kFields);
            std::string story;
            const auto field = [&] { return "c" + std::to_string(random() % kFields); };
            const auto tier = [&]() -> std::string {
                return design.tiers.empty() ? "" : design.tiers[random() % design.tiers.size()].name;
            };
            for (int step = 0; step < 40; ++step) {
                const unsigned what = random() % 10;
                const std::string a = field(), b = field(), t = tier();
                story += std::to_string(what) + ":" + a + "," + b + "," + t + " ";
                switch (what) {
                    case 0: makeTier(design, {a, b, field()}, "T"); break;
                    case 1: makeTier(design, {a}, ""); break;
                    case 2: moveColumns(design, {a, b}, {t, field()}); break;
                    case 3: moveColumns(design, {a}, {"", b}); break;
                    case 4: moveTier(design, t, {tier(), a}); break;
                    case 5: dissolveTier(design, t); break;
                    case 6: putUnder(design, a, random() % 3 ? b : ""); break;
                    case 7: design.column(a)->shown = random() % 2; break;
                    case 8: showTier(design, t, random() % 2); break;
                    case 9:
                        if (TierDesign* found = design.findTier(t)) {
                            found->folded = random() % 2;
                            found->lead = random() % 2 ? a : "";
                        }
                        design.column(b)->span = 1 + static_cast<int>(random() % 3);
                        break;
                }
                std::set<std::string> fields;
                for (const ColumnDesign& column : design.columns) fields.insert(column.field);
                QVERIFY2(fields.size() == kFields && design.columns.size() == kFields, story.c_str());
                const std::string wrong = violation(design, schema);
                QVERIFY2(wrong.empty(), (wrong + "\n" + written(design) + "\n" + story).c_str());
            }
            // And through the file.
            const auto read = designFromJson(toJson(design));
            QVERIFY(read.ok() && read->design == design);
        }
    }

    void foldsLeaveTheLead() {
        Design design = plainDesign(5);
        design.tier("T").add({"c1", "c2", "c3"}).setFolded(true);
        ViewPlan plan = planOf(design, schemaOf(5));
        QCOMPARE(plan.columns.size(), std::size_t{3});
        QCOMPARE(plan.columns[1].design.field, std::string("c1"));
        QCOMPARE(plan.tiers.front().foldedAway, 2);
        design.tier("T").setLead("c3");
        QCOMPARE(planOf(design, schemaOf(5)).columns[1].design.field, std::string("c3"));
        design.column("c3")->shown = false;  // a lead that is hidden leads no more
        QCOMPARE(planOf(design, schemaOf(5)).columns[1].design.field, std::string("c1"));
        showTier(design, "T", false);
        plan = planOf(design, schemaOf(5));
        QVERIFY(plan.tiers.empty() && plan.tierLevels == 0);  // the last column hides its tier
    }

    void damagedFilesAreMended_data() {
        QTest::addColumn<QString>("tiers");
        QTest::addColumn<QString>("columns");
        QTest::addColumn<QString>("expected");
        QTest::addColumn<QString>("said");
        const auto row = [](const char* tag, const char* tiers, const char* columns, const char* expected,
                            const char* said) { QTest::newRow(tag) << tiers << columns << expected << said; };
        row("empty tier", "{'name':'T'}", "{'field':'a'}", "a", "No column stands in the tier T");
        row("doubled", "{'name':'T'},{'name':'T','heading':'other'}", "{'field':'a','tier':'T'}", "[T: a]",
            "stands twice");
        row("nameless", "{'heading':'T'}", "{'field':'a'}", "a", "without a name");
        row("circular", "{'name':'T','parent':'U'},{'name':'U','parent':'T'}", "{'field':'a','tier':'T'}", "[T: a]",
            "stands in itself");
        row("in itself", "{'name':'T','parent':'T'}", "{'field':'a','tier':'T'}", "[T: a]", "stands in itself");
        row("unknown parent", "{'name':'T','parent':'X'}", "{'field':'a','tier':'T'}", "[T: a]", "X that there is not");
        row("unknown tier", "", "{'field':'a','tier':'X'}", "a", "X that there is not");
        row("torn", "{'name':'T'}", "{'field':'a','tier':'T'},{'field':'b'},{'field':'c','tier':'T'}", "[T: a c] b",
            "put together");
        row("beneath nothing", "", "{'field':'a','under':'x'}", "a", "not a column on the first line");
        row("beneath each other", "", "{'field':'a','under':'b'},{'field':'b','under':'a'}", "b^a",
            "has a place of its own");
    }
    void damagedFilesAreMended() {
        QFETCH(QString, tiers);
        QFETCH(QString, columns);
        QFETCH(QString, expected);
        QFETCH(QString, said);
        QString json = QString("{'jollyrow':1,'tiers':[%1],'columns':[%2]}").arg(tiers, columns);
        const auto read = designFromJson(json.replace(u'\'', u'"').toStdString());
        QVERIFY(read.ok());
        if (expected != "b^a") QCOMPARE(QString::fromStdString(written(read->design)), expected);
        QVERIFY2(std::any_of(read->findings.begin(), read->findings.end(),
                             [&](const Finding& f) { return f.message.find(said.toStdString()) != std::string::npos; }),
                 read->findings.empty() ? "nothing said" : read->findings.front().message.c_str());
        Design again = read->design;
        QVERIFY(settleTiers(again).size() <= 1 && again == read->design);
    }

    void twoHundredDeepOpens() {
        QString tiers, parent;
        for (int i = 0; i < 200; ++i) {
            tiers += QString("%1{'name':'t%2','parent':'%3'}").arg(i ? "," : "").arg(i).arg(parent);
            parent = QString("t%1").arg(i);
        }
        QString json = QString("{'jollyrow':1,'tiers':[%1],'columns':[{'field':'c0','tier':'t199'}]}").arg(tiers);
        const auto read = designFromJson(json.replace(u'\'', u'"').toStdString());
        QVERIFY(read.ok());
        QVERIFY(!read->findings.empty());
        const ViewPlan plan = planOf(read->design, schemaOf(1));
        QVERIFY(plan.tierLevels >= 1 && plan.tierLevels <= TierDesign::kMostLevels);
    }
};

QTEST_APPLESS_MAIN(TierTreeTest)
#include "tier_tree_test.moc"
