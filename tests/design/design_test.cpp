// SPDX-License-Identifier: MIT
// The design file: round trips, its published schema, damage at every byte, saving that is whole or not at all.
#include <QtTest>

#include <sys/resource.h>
#include <csignal>

#include <filesystem>
#include <fstream>
#include <nlohmann/json.hpp>
#include <random>

#include "core/base/source_address.h"
#include "core/design/design_file.h"
#include "core/design/history.h"
#include "core/design/make_design.h"
#include "core/design/plan.h"
#include "core/design/tier_tree.h"
#include "tests/turns.h"

using namespace jollyrow;

namespace {

FacePart randomPart(std::mt19937& random, int levels) {
    FacePart part;
    part.kind = static_cast<FacePartKind>(random() % 14);
    part.field = random() % 2 ? "f" + std::to_string(random() % 12) : "";
    part.text = random() % 2 ? "{f1} · \"" : "";
    part.format.suffix = random() % 3 == 0 ? " m" : "";
    for (std::string* ink : {&part.colour, &part.rules.emplace_back().colour})
        *ink = random() % 3 == 0 ? "#a97c22" : random() % 2 ? "teal" : "";
    part.rules.back().where = random() % 2 ? "f2 > 3" : "";
    part.rules.back().shape = static_cast<MarkShape>(random() % 11);
    part.rules.back().weight = static_cast<LineWeight>(random() % 4);
    part.rules.back().words = random() % 2 ? "hauled out" : "";
    if (random() % 2) part.rules.clear();
    part.weight = static_cast<LineWeight>(random() % 4);
    part.larger = static_cast<int>(random() % 12) - 4;
    part.shownWhen = random() % 3 == 0 ? "f1 IS NOT NULL" : "";
    part.alignment = static_cast<Alignment>(random() % 4);
    part.width = {static_cast<WidthMode>(random() % 3), static_cast<int>(random() % 90), 0.5 * (1 + random() % 4),
                  static_cast<int>(random() % 30), static_cast<int>(random() % 2) * 60};
    part.toolTip = random() % 3 == 0 ? "{f3}" : "";
    part.name = random() % 3 == 0 ? "call" : "";
    part.most = 1 + static_cast<int>(random() % 20);
    part.bar.fields = random() % 2 ? std::vector<std::string>{"f1", "f2"} : std::vector<std::string>{};
    part.bar.shares = random() % 2;
    part.bar.ends = static_cast<BarEnds>(random() % 3);
    part.bar.from = -0.5 * (random() % 9);
    part.bar.to = 0.25 * (1 + random() % 900);
    part.bar.number = static_cast<BarNumber>(random() % 3);
    part.bar.axis = random() % 2;
    part.trend.look = static_cast<TrendLook>(random() % 3);
    part.trend.marks = random() % 2;
    part.trend.band = random() % 2;
    part.trend.from = -0.5 * (random() % 9);
    part.trend.to = 1 + 0.25 * (random() % 900);
    part.trend.last = static_cast<int>(random() % 30);
    part.opens = random() % 2 ? "https://kelpie-quay.example/{f1}" : "";
    part.lines = static_cast<int>(random() % 5);
    part.picture.fills = random() % 2;
    part.picture.enlarges = random() % 2;
    for (unsigned i = 0, n = levels > 1 ? random() % 4 : 0; i < n; ++i)
        part.parts.push_back(randomPart(random, levels - 1));
    return part;
}

Design randomDesign(std::mt19937& random) {
    Design design;
    design.title = "Yard \"jobs\" \\ Åse " + std::to_string(random() % 100);
    design.source = {"sqlite", "kelpie.db", "jobs", random() % 4 == 0 ? "SELECT 1" : ""};
    design.locale = random() % 2 ? "de-DE" : "";
    design.source.pictures = random() % 2 ? "boats/small" : "";
    design.source.zone = random() % 2 ? "Europe/Berlin" : "";
    for (const char* form : {"date dd.MM.yyyy", "seconds", "milliseconds", "number", "number ,", "words J N"})
        if (random() % 3 == 0) design.source.readAs.emplace("f" + std::to_string(random() % 12), *readAsFromText(form));
    GridDesign& grid = design.grid;
    grid.pinned = static_cast<int>(random() % 5);
    grid.pinnedRight = static_cast<int>(random() % 3);
    grid.lastFills = random() % 2;
    grid.stripes = random() % 2;
    grid.lines = random() % 2;
    grid.rowHeight = 16 + static_cast<int>(random() % 60);
    grid.lineHeight = static_cast<LineHeight>(random() % 2);
    grid.pictureMegabytes = 1 + static_cast<int>(random() % 200);
    grid.mostLines = 1 + static_cast<int>(random() % 9);
    grid.theme = static_cast<GridTheme>(random() % 3);
    grid.look = random() % 2 ? "Own" : random() % 2 ? "slate" : "";
    grid.crossLight = random() % 2;
    if (random() % 2) grid.linkSchemes = {"https", "tel"};
    if (random() % 2) design.looks.push_back({"Own", "chart", {{"paper", "#fefefe"}}, {{"teal", "#012345"}}});
    if (random() % 2) grid.pinnedRecords.push_back({{"4107", "ä"}, PinnedRecord::Edge::Bottom});
    for (unsigned i = 0; i < 2; ++i) {
        TierDesign tier;
        tier.name = "T" + std::to_string(i);
        tier.heading = random() % 2 ? "Cost" : "";
        tier.parent = i == 1 && random() % 2 ? "T0" : "";
        tier.alignment = static_cast<Alignment>(random() % 4);
        tier.look = static_cast<TierLook>(random() % 3);
        tier.colour = random() % 2 ? "#1e7f78" : "";
        tier.toolTip = random() % 2 ? "without tax" : "";
        tier.folded = random() % 2;
        tier.lead = random() % 2 ? "f1" : "";
        design.tiers.push_back(tier);
    }
    for (unsigned i = 0, n = random() % 12; i < n; ++i) {
        ColumnDesign c;
        c.field = "f" + std::to_string(i);
        c.heading = random() % 3 == 0 ? "" : "Heading\n\t" + std::to_string(random());
        c.shown = random() % 2;
        c.readOnly = random() % 2;
        c.alignment = static_cast<Alignment>(random() % 4);
        c.width = {static_cast<WidthMode>(random() % 3), 24 + static_cast<int>(random() % 900),
                   0.25 * (1 + random() % 12), 24 + static_cast<int>(random() % 50),
                   static_cast<int>(random() % 2) * 400};
        c.tier = random() % 2 ? "T" + std::to_string(random() % 2) : "";
        c.under = i > 0 && random() % 3 == 0 ? "f0" : "";
        c.span = 1 + static_cast<int>(random() % 3);
        c.hiddenFromUsers = random() % 2;
        c.wrap = random() % 2;
        c.merge = random() % 2;
        if (random() % 2) c.type = static_cast<Type>(random() % 10);
        c.format.style = static_cast<FormatStyle>(random() % 6);
        c.format.pattern = random() % 2 ? "#,##0.00" : "";
        c.format.unit = static_cast<DurationUnit>(random() % 4);
        c.format.suffix = random() % 2 ? " h" : "";
        c.format.empty = random() % 2 ? "none" : "–";
        c.label = random() % 2 ? "name" : "";
        c.hint = random() % 2 ? "like 24 Nov" : "";
        c.toolTip = random() % 2 ? "promised day" : "";
        design.columns.push_back(c);
    }
    for (unsigned i = 0, n = random() % 3; i < n; ++i)
        design.faces.push_back({"face" + std::to_string(i), randomPart(random, 4)});
    for (unsigned i = 0, n = random() % 3; i < n; ++i)
        design.banners.push_back({"f1 > " + std::to_string(random() % 9), random() % 2 ? "{f2}" : "", random() % 2 == 0,
                                  random() % 2 ? "teal" : "", random() % 2 ? "#ddeeff" : "",
                                  static_cast<LineWeight>(random() % 4), static_cast<Alignment>(random() % 4)});
    for (unsigned i = 0, n = random() % 3; i < n; ++i) {
        StyleDesign style;
        style.name = "S" + std::to_string(i);
        style.where = random() % 2 ? "value > 3" : "";
        if (random() % 2) style.columns = {"f1", "f2"};
        style.ink = random() % 2 ? "buoy" : "";
        style.background = random() % 2 ? "#aabbcc" : "";
        style.weight = static_cast<LineWeight>(random() % 4);
        style.strike = random() % 2;
        style.italic = random() % 2;
        style.lines = static_cast<StyledLines>(random() % 3);
        if (random() % 2) style.lowest = "blue", style.highest = "#ff8800";
        if (random() % 2) style.middle = "quiet";
        for (unsigned k = 0, icons = random() % 4; k < icons; ++k)
            style.icons.push_back({static_cast<MarkShape>(random() % 11), random() % 2 ? "teal" : "", {}});
        style.last = random() % 2;
        style.on = random() % 2;
        design.styles.push_back(style);
    }
    for (ColumnDesign& c : design.columns) c.face = random() % 3 == 0 ? "face0" : "";
    settleTiers(design);
    for (unsigned i = 0, n = random() % 3; i < n; ++i)
        design.sort.push_back(
            {"f" + std::to_string(i), static_cast<Direction>(random() % 2), static_cast<Empties>(random() % 2)});
    return design;
}

TableSchema jobsSchema() {
    TableSchema schema;
    schema.name = "jobs";
    for (const auto& [name, type] : std::vector<std::pair<std::string, Type>>{{"number", Type::Integer},
                                                                              {"due_on", Type::Date},
                                                                              {"photo", Type::Binary},
                                                                              {"VATRate", Type::Decimal},
                                                                              {"work", Type::Text}}) {
        FieldSchema field;
        field.name = name;
        field.type = type;
        schema.fields.push_back(field);
    }
    return schema;
}

}  // namespace

class DesignTest : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void roundTripsAndSatisfiesItsSchema() {
        const QTemporaryDir folder;
        QFile designs(folder.filePath("designs.jsonl"));
        QVERIFY(designs.open(QIODevice::WriteOnly));
        std::mt19937 random(4);
        for (int i = 0; i < 400; ++i) {
            const Design design = randomDesign(random);
            const std::string text = toJson(design);
            const auto read = designFromJson(text);
            QVERIFY2(read.ok(), read.ok() ? "" : read.error().message.c_str());
            QVERIFY(read->design == design);
            for (const Finding& finding : read->findings) QVERIFY(finding.severity == Severity::Note);  // empty tiers
            QCOMPARE(toJson(read->design), text);
            designs.write(QByteArray::fromStdString(nlohmann::json::parse(text).dump()) + '\n');
        }
        designs.close();
        // Judged by an implementation of the standard that is not ours; and a wrong design must not pass.
        const char* judge =
            "import json, sys, jsonschema\n"
            "judge = jsonschema.Draft7Validator(json.load(open(sys.argv[1])))\n"
            "lines = open(sys.argv[2], encoding='utf-8').read().split('\\n')[:-1]\n"
            "for line in lines: judge.validate(json.loads(line))\n"
            "assert not judge.is_valid({'jollyrow': 'one'})\n"
            "print(len(lines))";
        QProcess python;
        python.start("/usr/bin/python3",
                     {"-c", judge, SOURCE_DIR "/docs/formats/design.schema.json", designs.fileName()});
        QVERIFY(python.waitForFinished(60000));
        QVERIFY2(python.exitCode() == 0, python.readAllStandardError().right(2000).constData());
        QCOMPARE(python.readAllStandardOutput().trimmed(), QByteArray("400"));
    }

    void unknownKeysAreKeptAndReported() {
        const std::string text =
            R"({"jollyrow":1,"title":"T","weather":{"wind":7},"columns":[{"field":"a","headin":"A","mood":[1,2]}]})";
        const auto read = designFromJson(text);
        QVERIFY(read.ok());
        QCOMPARE(read->findings.size(), std::size_t{3});
        QCOMPARE(read->findings[0].fix, std::string("heading"));
        const auto again = designFromJson(toJson(read->design));
        QVERIFY(again->design == read->design);
        const nlohmann::json written = nlohmann::json::parse(toJson(read->design));
        QCOMPARE(written["weather"]["wind"].get<int>(), 7);
        QCOMPARE(written["columns"][0]["mood"].size(), std::size_t{2});
    }

    void wrongValuesBecomeFindings() {
        const auto read = designFromJson(
            R"({"jollyrow":1,"title":7,"grid":{"rowHeight":-4,"pinned":"two"},"sort":[{"direction":"up"},"x"],
            "columns":[{"field":"a","width":{"mode":"wide","pixels":1e99,"weight":-1}},{"field":"a"},{"heading":"no field"},5]})");
        QVERIFY(read.ok());
        QCOMPARE(read->design.columns.size(), std::size_t{1});
        QVERIFY(read->design.columns[0].width == Width());
        QCOMPARE(read->design.grid.rowHeight, GridDesign().rowHeight);
        QVERIFY(read->design.sort.empty());
        QCOMPARE(read->findings.size(), std::size_t{12});
    }

    void refusals_data() {
        QTest::addColumn<QByteArray>("text");
        QTest::addColumn<QString>("message");
        QTest::newRow("empty") << QByteArray() << "breaks off";
        QTest::newRow("truncated") << QByteArray("{\"jollyrow\": 1, \"title\": \"Ya") << "breaks off";
        QTest::newRow("not JSON") << QByteArray("SQLite format 3") << "not JSON at line 1";
        QTest::newRow("another JSON") << QByteArray("{\"name\": 1}") << "not a design";
        QTest::newRow("an array") << QByteArray("[1]") << "not a design";
        QTest::newRow("from the future") << QByteArray("{\"jollyrow\": 2}") << "newer";
        QTest::newRow("deep") << QByteArray(100000, '[') << "nested deeper";
    }
    void refusals() {
        QFETCH(QByteArray, text);
        QFETCH(QString, message);
        const auto read = designFromJson(text.toStdString());
        QVERIFY(!read.ok());
        QVERIFY2(QString::fromStdString(read.error().message).contains(message), read.error().message.c_str());
    }

    void damageAtEveryByteNeverCrashes() {
        std::mt19937 random(8);
        Design design = randomDesign(random);
        // The time goes with the square of its length.
        constexpr std::size_t kMostBytes = 12'000;
        while (design.columns.size() < 3 || toJson(design).size() > kMostBytes) design = randomDesign(random);
        const std::string whole = toJson(design);
        for (std::size_t cut = 0; cut + 2 < whole.size(); cut += test::kSanitized ? 7 : 1)
            QVERIFY(!designFromJson(std::string_view(whole).substr(0, cut)).ok());
        for (std::size_t at = 0; at < whole.size(); at += test::kSanitized ? 7 : 1) {
            std::string damaged = whole;
            damaged[at] = static_cast<char>(random());
            const auto read = designFromJson(damaged);
            if (read) QVERIFY(designFromJson(toJson(read->design)).ok());  // whatever came in goes out sound
        }
    }

    void savingIsAllOrNothing() {
        QTemporaryDir folder;
        const std::string path = folder.filePath("d.jrow").toStdString();
        std::mt19937 random(2);
        const Design first = randomDesign(random);
        QVERIFY(writeDesignFile(path, first).ok());
        Design large = first;
        for (int i = 0; i < 4000; ++i)
            large.columns.push_back(columnFor(
                {.name = "c" + std::to_string(i), .declaredType = {}, .defaultSql = std::nullopt, .permitted = {}}));
        // A disk that takes no more than 64 kB.
        std::signal(SIGXFSZ, SIG_IGN);
        rlimit before{};
        getrlimit(RLIMIT_FSIZE, &before);
        rlimit small = before;
        small.rlim_cur = 64 * 1024;
        setrlimit(RLIMIT_FSIZE, &small);
        const auto written = writeDesignFile(path, large);
        setrlimit(RLIMIT_FSIZE, &before);
        QVERIFY(!written.ok());
        QCOMPARE(written.error().code, ErrorCode::DiskFull);
        QVERIFY(readDesignFile(path)->design == first);
        QCOMPARE(std::distance(std::filesystem::directory_iterator(folder.path().toStdString()), {}),
                 std::ptrdiff_t{1});
        QVERIFY(writeDesignFile(path, large).ok());
        QVERIFY(readDesignFile(path)->design == large);
        QVERIFY(!writeDesignFile((folder.path() + "/none/d.jrow").toStdString(), first).ok());
        QVERIFY(!readDesignFile(folder.path().toStdString()).ok());
    }

    void sourcePathsAreKeptRelative() {
        QCOMPARE(storedSourcePath("/yard/data/k.db", "/yard/jobs.jrow"), std::string("data/k.db"));
        QCOMPARE(storedSourcePath("/elsewhere/k.db", "/yard/jobs.jrow"), std::string("/elsewhere/k.db"));
        // A server's address is no path.
        const std::string address = "postgresql://yard@db.example:5432/kelpie?sslmode=verify-full";
        QCOMPARE(storedSourcePath(address, "/yard/jobs.jrow"), address);
        Design onServer;
        onServer.source.path = address;
        QCOMPARE(resolvedSourcePath(onServer, "/yard/jobs.jrow"), address);
        QCOMPARE(sourceKindOf(address), std::string("postgresql"));
        QCOMPARE(sourceKindOf("/yard/postgresql.db"), std::string("sqlite"));
        QCOMPARE(sourceNameOf(address), std::string("kelpie at db.example:5432"));
        QCOMPARE(sourceNameOf("postgres://x@/kelpie?host=/run"), std::string("kelpie"));
        QCOMPARE(sourceNameOf("postgresql:///?service=yard"), std::string("a server"));
        QCOMPARE(sourceNameOf("/yard/data/k.db"), std::string("k.db"));
        Design design;
        design.source.path = "data/k.db";
        QCOMPARE(resolvedSourcePath(design, "/yard/jobs.jrow"), std::string("/yard/data/k.db"));
    }

    void headings_data() {
        QTest::addColumn<QString>("field");
        QTest::addColumn<bool>("isLink");
        QTest::addColumn<QString>("heading");
        QTest::newRow("snake") << "due_on" << false << "Due on";
        QTest::newRow("camel") << "bookedOn" << false << "Booked on";
        QTest::newRow("acronym") << "VAT" << false << "VAT";
        QTest::newRow("acronym first") << "VATRate" << false << "VAT rate";
        QTest::newRow("link") << "vessel_id" << true << "Vessel";
        QTest::newRow("id that is no link") << "vessel_id" << false << "Vessel ID";
        QTest::newRow("id alone") << "id" << false << "ID";
        QTest::newRow("Id in a word") << "idle_hours" << false << "Idle hours";
        QTest::newRow("initials in the middle") << "vat_rate_id" << false << "VAT rate ID";
        QTest::newRow("underscores only") << "__" << false << "__";
    }
    void headings() {
        QFETCH(QString, field);
        QFETCH(bool, isLink);
        QFETCH(QString, heading);
        QCOMPARE(QString::fromStdString(headingFor(field.toStdString(), isLink)), heading);
    }

    void planLeavesOutWhatIsMissingAndSaysSo() {
        Design design = designFor(jobsSchema(), {});
        QCOMPARE(design.columns.size(), std::size_t{5});
        QVERIFY(!design.column("photo")->shown);
        design.columns[1].field = "due_onn";
        design.sort = {{"due_onn", Direction::Ascending, Empties::Last},
                       {"photo", Direction::Ascending, Empties::Last},
                       {"work", Direction::Descending, Empties::First}};
        const ViewPlan plan = planOf(design, jobsSchema());
        QCOMPARE(plan.columns.size(), std::size_t{3});
        QCOMPARE(plan.sort.size(), std::size_t{1});
        QCOMPARE(plan.findings.size(), std::size_t{3});
        QCOMPARE(plan.findings[0].fix, std::string("due_on"));
        QVERIFY(!plan.wanted[2]);  // pictures are not read unless shown
    }

    void historyUndoesAndRedoes() {
        History<int> history;
        QVERIFY(!history.last() && !history.next());
        history.push("one", 1);
        history.push("two", 2);
        QCOMPARE(history.undo().change, 2);
        QCOMPARE(history.next()->label, std::string("two"));
        history.push("three", 3);
        QVERIFY(!history.next());
        QCOMPARE(history.undo().change, 3);
        QCOMPARE(history.undo().change, 1);
        QVERIFY(!history.last());
        QCOMPARE(history.redo().change, 1);
        for (int i = 0; i < 1500; ++i) history.push("n", i);
        int steps = 0;
        for (; history.last(); ++steps) history.undo();
        QCOMPARE(steps, 1000);
    }
};

QTEST_APPLESS_MAIN(DesignTest)
#include "design_test.moc"
