// SPDX-License-Identifier: MIT
// Faces without a window: what a design file may say, what a plan makes of it, and what the parts of records hold.
// SQLite judges conditions and ends; a plain loop the edited ones.
#include <QtTest>

#include <cmath>

#include "core/design/cell_text.h"
#include "core/design/design_file.h"
#include "core/design/find.h"
#include "core/design/make_design.h"
#include "core/rows/rowline.h"
#include "core/session/schema_for.h"
#include "core/session/view_input.h"
#include "tests/sources/database.h"

using namespace jollyrow;

namespace {

/// Values that contradict their columns, empties, twins, right-to-left, lists that are none.
constexpr const char* kSql = R"SQL(
CREATE TABLE owners (id INTEGER PRIMARY KEY, name TEXT);
CREATE TABLE boats (id INTEGER PRIMARY KEY, name TEXT NOT NULL, owner INTEGER REFERENCES owners(id), stars INTEGER,
  length DECIMAL(6,2), hours DECIMAL(8,2), parts DECIMAL(8,2), readings NUMBER LIST, tint TEXT, afloat BOOLEAN);
INSERT INTO owners VALUES (1, 'Ines Calder'), (2, NULL), (3, 'سلمى');
INSERT INTO boats VALUES
 (1, 'Sandpiper', 1, 3, 7.5, 10, 0, '[1, 2.5, null, 4]', '#1e7f78', 1),
 (2, 'Otter''s Due', 2, NULL, NULL, -4.25, 12.5, '[]', 'teal', 0),
 (3, 'نسيم الخليج', 3, 9, 112.4, NULL, NULL, NULL, NULL, NULL),
 (4, '', 1, 0, 'long', 'soon', 3, 'twelve', '#12', 1),
 (5, 'Sandpiper', NULL, 5, 0.01, 400, 400.25, '3', '', 0);
)SQL";

const FaceDesign* only(Design& design, FacePart root, const char* column = "name") {
    design.faces = {{"face", std::move(root)}};
    design.column(column)->face = "face";
    return &design.faces.front();
}

}  // namespace

class FaceTest : public QObject {
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
    };
    Seen seen(const Design& design, std::shared_ptr<const Edits> edits = std::make_shared<Edits>()) const {
        auto source = openSource(path_.toStdString());
        const TableSchema schema = *schemaFor(**source, design);
        Seen out{planOf(design, schema), nullptr};
        LoadRequest request = loadRequest(design, schema, std::vector<bool>(schema.fields.size(), true), {});
        const auto table = (*source)->load(request, Cancel());
        ViewState state;
        out.snapshot = *Rowline().run(viewInput(out.plan, *table, std::move(edits), state), Cancel());
        return out;
    }
    static const PlannedColumn& column(const Seen& seen, const char* field) {
        for (const PlannedColumn& column : seen.plan.columns)
            if (column.design.field == field) return column;
        qFatal("no column");
    }
    static std::string text(const Seen& seen, std::uint32_t row, const char* field = "name") {
        CellText cell;
        readCell(*seen.snapshot, static_cast<SourceRow>(row), column(seen, field), cell);
        return cell.text;
    }
    static PartContent part(const Seen& seen, std::uint32_t row, std::size_t index, const char* field = "name") {
        FaceReader reader(*seen.snapshot, column(seen, field).face);
        FaceContent content;
        reader.read(static_cast<SourceRow>(row), content);
        return content.parts[index];
    }
    std::vector<std::string> fromSqlite(const std::string& select) const {
        sqlite3* db = nullptr;
        sqlite3_open(path_.toUtf8().constData(), &db);
        std::vector<std::string> rows;
        const auto take = [](void* out, int, char** values, char**) {
            static_cast<std::vector<std::string>*>(out)->emplace_back(values[0] ? values[0] : "");
            return 0;
        };
        if (sqlite3_exec(db, select.c_str(), take, &rows, nullptr) != SQLITE_OK) qFatal("%s", sqlite3_errmsg(db));
        sqlite3_close(db);
        return rows;
    }

  private Q_SLOTS:
    void initTestCase() { run(path_, kSql); }

    void textsComeFromThisAndRelatedRecords() {
        Design d = design();
        only(d,
             face::column({face::row({face::field(),
                                      face::mark({{"afloat", "teal", MarkShape::Tick, LineWeight::Theme, "afloat"}})}),
                           face::text("{owner.name} · {length} m").quiet()}));
        const Seen s = seen(d);
        QVERIFY(s.plan.findings.empty());
        QCOMPARE(text(s, 0), std::string("Sandpiper afloat Ines Calder · 7.50 m"));
        // What a message formats and is empty leaves the message out; what is stored otherwise is written as stored.
        QVERIFY(text(s, 3).find("long") != std::string::npos);
        QVERIFY(text(s, 2).starts_with("نسيم الخليج"));
    }

    /// Where SQLite says that a condition holds the part is shown, elsewhere it is not; empty is not true.
    void conditionsHoldWhereTheDatabaseSaysSo() {
        for (const char* rule :
             {"stars > 2", "name = 'Sandpiper'", "length IS NULL", "NOT afloat", "owner.name IS NULL",
              "name LIKE 'S%' AND stars <> 5", "COALESCE(stars, 7) BETWEEN 4 AND 8"}) {
            Design d = design();
            only(d, face::row({face::field("id"), face::text("yes").when(rule)}));
            const Seen s = seen(d);
            QVERIFY2(s.plan.findings.empty(), rule);
            std::string sql = rule;
            if (const auto at = sql.find("owner.name"); at != std::string::npos)
                sql.replace(at, 10, "(SELECT o.name FROM owners o WHERE o.id = boats.owner)");
            // A length that is none has no length to a rule; SQLite would take the text.
            const auto holds = fromSqlite("SELECT id FROM boats WHERE (" + sql + ") AND NOT (typeof(length) = 'text')");
            for (std::uint32_t row = 0; row < 5; ++row) {
                if (row == 3) continue;
                const bool expected = std::count(holds.begin(), holds.end(), std::to_string(row + 1)) > 0;
                QVERIFY2(part(s, row, 2).isShown == expected, qPrintable(QString("%1, %2").arg(rule).arg(row)));
            }
        }
    }

    void valueInARuleIsWhatThePartShows() {
        Design d = design();
        FacePart mark = face::mark({{"value > 4", "buoy", MarkShape::Diamond, LineWeight::Theme, "many"},
                                    {"value IS NOT NULL", "teal", MarkShape::Disc, LineWeight::Theme, "some"}});
        mark.field = "stars";
        only(d, std::move(mark));
        const Seen s = seen(d);
        QVERIFY(s.plan.findings.empty());
        QCOMPARE(text(s, 0), std::string("some"));
        QCOMPARE(text(s, 1), std::string());
        QCOMPARE(text(s, 2), std::string("many"));
    }

    void anEditIsShownAndJudgedAtOnce() {
        Design d = design();
        only(d, face::row({face::field(), face::text("{stars}").when("stars > 4")}));
        const Seen before = seen(d);
        const FieldIndex stars = *before.snapshot->table->schema.find("stars");
        auto edits = std::make_shared<Edits>();
        edits->set(static_cast<SourceRow>(0), stars, {std::int64_t{8}, std::int64_t{3}, EditState::Saving, {}});
        edits->set(static_cast<SourceRow>(4), stars, {Empty{}, std::int64_t{5}, EditState::Saving, {}});
        const Seen after = seen(d, edits);
        QCOMPARE(text(before, 0), std::string("Sandpiper"));
        QCOMPARE(text(after, 0), std::string("Sandpiper 8"));
        QCOMPARE(text(before, 4), std::string("Sandpiper 5"));
        QCOMPARE(text(after, 4), std::string("Sandpiper"));
    }

    void endsAreThoseOfTheRecords() {
        Design d = design();
        BarDesign both;
        both.fields = {"hours", "parts"};
        only(d, face::bar({}, both));
        const Seen s = seen(d);
        QVERIFY(s.plan.findings.empty());
        // Below and above zero each by themselves; 'soon' is no number and counts for nothing.
        const auto high = fromSqlite(
            "SELECT MAX((CASE WHEN typeof(hours) <> 'text' AND hours > 0 THEN hours ELSE 0 END) + (CASE WHEN parts > 0 "
            "THEN parts ELSE 0 END)) FROM boats");
        const PartContent content = part(s, 1, 0);
        QCOMPARE(content.ends.high, std::stod(high.front()));
        QCOMPARE(content.ends.low, -4.25);
        QCOMPARE(content.numbers, (std::vector<double>{-4.25, 12.5}));
        QVERIFY(!part(s, 2, 0).isShown);
        QCOMPARE(content.text, std::string("−4.25 + 12.50"));

        Design filtered = d;
        filtered.faces.front().root.bar.ends = BarEnds::Filtered;
        filtered.filter = {{"id <= 3", "", "", true}};
        QCOMPARE(part(seen(filtered), 0, 0).ends, (Extent{-4.25, 12.5}));
        QCOMPARE(part(seen(d), 0, 0).ends, (Extent{-4.25, 800.25}));
        filtered.faces.front().root.bar.shares = true;
        const PartContent shares = part(seen(filtered), 1, 0);
        QVERIFY(std::abs(shares.numbers[0] + shares.numbers[1] - 1) < 1e-12 && shares.numbers[0] > 0);
    }

    /// Kept ends are made anew for other edits, other records shown, and not otherwise wrong.
    void keptEndsFollowEditsAndFilter() {
        Design d = design();
        only(d, face::bar("parts"));
        const Seen s = seen(d);
        const auto table = s.snapshot->table;
        const FieldIndex field = *table->schema.find("parts");
        ExtentStage stage;
        std::mt19937 random(5);
        auto edits = std::make_shared<const Edits>();
        std::shared_ptr<const RowOrder> order;
        for (int step = 0; step < 300; ++step) {
            if (random() % 2)
                edits = edits->with(static_cast<SourceRow>(random() % 5), field,
                                    {Decimal{static_cast<std::int64_t>(random() % 90'000) - 40'000, 2},
                                     Empty{},
                                     EditState::Saving,
                                     {}});
            if (random() % 8 == 0) {  // deleted, or made again
                const auto row = static_cast<SourceRow>(random() % 5);
                RecordEdit record = edits->record(row) ? *edits->record(row) : RecordEdit();
                record.setFate(record.fate()
                                   ? std::nullopt
                                   : std::optional(RecordFate{RecordChange::Delete, EditState::Saved, {}, {}, 0}));
                edits = edits->withRecord(row, record);
            }
            if (random() % 4 == 0) {
                auto some = std::make_shared<RowOrder>();
                for (std::uint32_t row = 0; row < 5; ++row)
                    if (random() % 2) some->push_back(row);
                order = some;
            }
            const ExtentTerm term{{field}, random() % 2 == 0};
            Extent expected;
            for (std::uint32_t row = 0; row < 5; ++row) {
                if (term.filtered && order && std::find(order->begin(), order->end(), row) == order->end()) continue;
                if (!(term.filtered && order) && edits->fate(static_cast<SourceRow>(row))) continue;
                const CellEdit* edit = edits->find(static_cast<SourceRow>(row), field);
                const double number =
                    numberOf(edit ? edit->value : table->column(field)->value(static_cast<SourceRow>(row)));
                if (std::isnan(number)) continue;
                expected.low = std::min(expected.low, number);
                expected.high = std::max(expected.high, number);
            }
            QCOMPARE(stage.of(term, table, edits, order, Cancel()), expected);
        }
    }

    void aStoredValueOfAnotherKindIsWrittenAsItIs() {
        Design d = design();
        for (const auto& [kind, field] : {std::pair("hours", "hours"), std::pair("length", "length")}) {
            Design one = d;
            only(one, face::bar(field), kind);
            CellText cell;
            const Seen s = seen(one);
            readCell(*s.snapshot, static_cast<SourceRow>(3), column(s, kind), cell);
            QVERIFY(cell.isMisfit && !cell.isComposed && !cell.isEmpty);
        }
        only(d, face::trend("readings"));
        const Seen s = seen(d);
        QVERIFY(part(s, 3, 0).isMisfit);
        QCOMPARE(part(s, 3, 0).text, std::string("twelve"));
        QVERIFY(!part(s, 1, 0).isShown && !part(s, 2, 0).isShown);
        const auto numbers = part(s, 0, 0).numbers;
        QVERIFY(numbers.size() == 4 && std::isnan(numbers[2]) && numbers[3] == 4);
        QCOMPARE(part(s, 4, 0).numbers, std::vector<double>{3});
    }

    /// A stacked bar without one of its values would show another sum: it is written.
    void aStackedBarOfAMisfitIsWritten() {
        Design d = design();
        BarDesign both;
        both.fields = {"hours", "parts"};
        only(d, face::bar({}, both));
        const PartContent content = part(seen(d), 3, 0);
        QVERIFY(content.isMisfit && content.isShown);
        QCOMPARE(content.text, std::string("soon + 3.00"));
    }

    void numbersInLists_data() {
        QTest::addColumn<QString>("list");
        QTest::addColumn<int>("count");  // -1: none
        for (const auto& [list, count] : std::vector<std::pair<const char*, int>>{{"", 0},
                                                                                  {"[]", 0},
                                                                                  {" [ 1 , 2 ] ", 2},
                                                                                  {"1,2,3", 3},
                                                                                  {"1,,3", 3},
                                                                                  {"[1,null,NaN]", 3},
                                                                                  {"[1,2", -1},
                                                                                  {"[1;2]", -1},
                                                                                  {"[\"1\"]", -1},
                                                                                  {"1e400", -1},
                                                                                  {"-1.5e3,+2", -1},
                                                                                  {"[[1]]", -1},
                                                                                  {"inf", 1},
                                                                                  {"0x10", -1},
                                                                                  {"1 2", -1}})
            QTest::newRow(list) << list << count;
    }
    void numbersInLists() {
        QFETCH(QString, list);
        QFETCH(int, count);
        const auto numbers = numbersIn(list.toStdString());
        QCOMPARE(numbers ? static_cast<int>(numbers->size()) : -1, count);
        std::string many = "[0";
        for (int i = 0; i < 20'000; ++i) many += ",1";
        QCOMPARE(numbersIn(many + "]")->size(), std::size_t{20'001});
    }

    /// A list is a bar of as many parts; its ends are those of all lists, its shares add up to one.
    void aBarIsStackedFromAList() {
        Design d = design();
        BarDesign shares;
        shares.shares = true;
        only(d, face::row({face::bar("readings"), face::bar("readings", shares)}));
        const Seen s = seen(d);
        QVERIFY(s.plan.findings.empty());
        const PartContent bar = part(s, 0, 1);
        QCOMPARE(bar.numbers.size(), std::size_t{4});
        QVERIFY(bar.numbers[0] == 1 && bar.numbers[1] == 2.5 && std::isnan(bar.numbers[2]) && bar.numbers[3] == 4);
        QVERIFY(bar.ends == (Extent{0, 7.5}));
        const PartContent share = part(s, 0, 2);
        QVERIFY(std::abs(share.numbers[0] + share.numbers[1] + share.numbers[3] - 1) < 1e-12);
        QVERIFY(std::isnan(share.numbers[2]));
        QVERIFY(!part(s, 1, 1).isShown && !part(s, 2, 1).isShown);  // an empty list, and none
        QVERIFY(part(s, 3, 1).isMisfit);
        QCOMPARE(part(s, 3, 1).text, std::string("twelve"));
        // Each part in words.
        FaceReader reader(*s.snapshot, column(s, "name").face);
        QCOMPARE(reader.stackedText(SourceRow{0}, 1, 1), std::string("Readings, 2 of 4: 2.5"));
        // Edited, it goes further.
        auto edits = std::make_shared<Edits>();
        edits->set(SourceRow{4}, *s.snapshot->table->schema.find("readings"),
                   {Value(std::string("[-3, 40]")), Empty{}, EditState::Saving, {}});
        QVERIFY(part(seen(d, edits), 0, 1).ends == (Extent{-3, 40}));
    }

    void partsOfAStackedBarAreSaid() {
        Design d = design();
        BarDesign both;
        both.fields = {"hours", "parts"};
        both.shares = true;
        only(d, face::row({face::bar({}, both)}));
        const Seen s = seen(d);
        FaceReader reader(*s.snapshot, column(s, "name").face);
        QCOMPARE(reader.stackedText(SourceRow{4}, 1, 0), std::string("Hours: 400.00 (50.0 %)"));
        QCOMPARE(reader.stackedText(SourceRow{2}, 1, 1), std::string("Parts: –"));
    }

    /// A list too long to be drawn is not drawn in part.
    void aListPastTheMostIsNone() {
        std::string list = "0";
        for (std::size_t i = 1; i < kMostListed; ++i) list += ",1";
        QCOMPARE(numbersIn(list)->size(), kMostListed);
        QVERIFY(!numbersIn(list + ",1"));
    }

    void trendsAndLinksComeBack() {
        Design d = design();
        TrendDesign trend;
        trend.look = TrendLook::Columns;
        trend.marks = trend.band = true;
        trend.from = -1;
        trend.to = 2.5;
        trend.last = 12;
        FacePart link = face::link("call", "{name}");
        link.opens = "mailto:{name}@kelpie-quay.example";
        only(d, face::row({face::trend("readings", trend), std::move(link), face::text("{name}").wrapped(3)}));
        d.grid.linkSchemes = {"https", "mailto"};
        const auto read = designFromJson(toJson(d));
        QVERIFY(read.ok() && read->findings.empty());
        QVERIFY(read->design.faces == d.faces && read->design.grid == d.grid);
        const auto old = designFromJson(R"({"jollyrow": 1, "faces": [{"name": "a", "root": {"kind": "trend",
            "trend": "area"}}, {"name": "b", "root": {"kind": "trend", "trend": {"band": true, "from": 2, "to": 2,
            "glow": 1}}}], "grid": {"linkSchemes": ["https", "file", "JavaScript", "x y", ""]}})");
        QVERIFY(old.ok());
        QVERIFY(old->design.faces[0].root.trend.look == TrendLook::Area);
        QVERIFY(!old->design.faces[1].root.trend.band);
        QCOMPARE(old->design.grid.linkSchemes, std::vector<std::string>{"https"});
        QCOMPARE(old->findings.size(), std::size_t{6});  // the band, the key, four schemes
        QVERIFY(toJson(old->design).find("glow") != std::string::npos);
        for (const char* never : {"file", "javascript", "data", "https:", "HTTPS", "1x", "", "vbscript"})
            QVERIFY2(!mayOpen(never), never);
        for (const char* sound : {"https", "mailto", "tel", "x-boat+1.2"}) QVERIFY2(mayOpen(sound), sound);
    }

    void anAddressIsMadeOfTheRecord() {
        Design d = design();
        FacePart link = face::link("call", "call");
        link.opens = "https://kelpie-quay.example/{id}?n={name}";
        only(d, face::row({std::move(link)}));
        const Seen s = seen(d);
        FaceReader reader(*s.snapshot, column(s, "name").face);
        QCOMPARE(reader.address(SourceRow{0}, 1), std::string("https://kelpie-quay.example/1?n=Sandpiper"));
        // A value is part of the address and no more, whatever stands in it.
        QCOMPARE(reader.address(SourceRow{1}, 1), std::string("https://kelpie-quay.example/2?n=Otter%27s%20Due"));
        auto edits = std::make_shared<Edits>();
        edits->set(SourceRow{0}, *s.snapshot->table->schema.find("name"),
                   {Value(std::string("x&to=y#z é\n")), Empty{}, EditState::Saving, {}});
        const Seen edited = seen(d, edits);
        QCOMPARE(FaceReader(*edited.snapshot, column(edited, "name").face).address(SourceRow{0}, 1),
                 std::string("https://kelpie-quay.example/1?n=x%26to%3Dy%23z%20%C3%A9%0A"));
        // One field alone is an address by itself.
        d.faces.front().root.parts.front().opens = "{tint}";
        const Seen whole = seen(d);
        QCOMPARE(FaceReader(*whole.snapshot, column(whole, "name").face).address(SourceRow{0}, 1),
                 std::string("#1e7f78"));
    }

    void whatCannotBeHadIsLeftOutAndSaid_data() {
        QTest::addColumn<QString>("wrong");
        for (const char* kind : {"field", "nearField", "ratingOfText", "trendOfYesNo", "message", "condition", "rule",
                                 "notBoolean", "window", "barOfText"})
            QTest::newRow(kind) << kind;
    }
    void whatCannotBeHadIsLeftOutAndSaid() {
        QFETCH(QString, wrong);
        FacePart bad = face::field("nothing_like_it");
        if (wrong == "nearField") bad = face::field("lenght");
        if (wrong == "ratingOfText") bad = face::rating("name");
        if (wrong == "trendOfYesNo") bad = face::trend("afloat");
        if (wrong == "message") bad = face::text("{name, plural, one {x}");
        if (wrong == "condition") bad = face::text("{name}").when("hours >");
        if (wrong == "rule") bad = face::mark({{"name > 3 +", "teal", MarkShape::Disc}, {"", "teal", MarkShape::Ring}});
        if (wrong == "notBoolean") bad = face::text("{name}").when("hours + 1");
        if (wrong == "window") bad = face::text("{name}").when("hours > AVG(hours) OVER ()");
        if (wrong == "barOfText") bad = face::bar("name");
        Design d = design();
        only(d, face::row({std::move(bad), face::text("still here")}));
        const Seen s = seen(d);
        QCOMPARE(s.plan.findings.size(), std::size_t{1});
        QVERIFY(QString::fromStdString(s.plan.findings.front().message).startsWith("Of the face of"));
        QVERIFY(text(s, 0).ends_with("still here"));
        QCOMPARE(s.plan.findings.front().message.find("length") != std::string::npos, wrong == "nearField");
    }

    void aMissingFaceIsSaidAndTheTypeShows() {
        Design d = design();
        only(d, face::text("{name}!"));
        d.column("name")->face = "fase";
        const Seen s = seen(d);
        QCOMPARE(s.plan.findings.size(), std::size_t{1});
        QVERIFY(s.plan.findings.front().message.find("Did you mean face?") != std::string::npos);
        QCOMPARE(text(s, 0), std::string("Sandpiper"));
    }

    void findLooksIntoFaces() {
        Design d = design();
        only(d, face::column({face::field(), face::text("of {owner.name}").when("owner.name IS NOT NULL")}));
        const Seen s = seen(d);
        const auto found = [&](const char* text) {
            const auto query = findQuery(text, s.plan);
            return (*findRecords(query, *s.snapshot, s.plan, Cancel()))->bits.front();
        };
        QCOMPARE(found("calder"), std::uint64_t{0b01001});
        QCOMPARE(found("of سلمى"), std::uint64_t{0b00100});
        QCOMPARE(found("sandpiper"), std::uint64_t{0b10001});
    }

    void relatedFieldsOfAFaceAreLoaded() {
        Design d = design();
        only(d, face::row({face::mark({{"owner.name LIKE 'I%'", "teal", MarkShape::Disc, LineWeight::Theme, "I"}})}));
        auto source = openSource(path_.toStdString());
        const TableSchema schema = *schemaFor(**source, d);
        QVERIFY(schema.find("owner.name").has_value());
        std::vector<bool> wanted(schema.fields.size());
        addFieldsRead(planOf(d, schema), wanted);
        QVERIFY(wanted[raw(*schema.find("owner.name"))]);
        QCOMPARE(text(seen(d), 0), std::string("I"));
    }

    /// 200 parts and 12 levels are the most; a file with more opens, without that face.
    void tooMuchIsLeftOut() {
        const auto nested = [](int levels) {
            FacePart part = face::text("x");
            for (int i = 1; i < levels; ++i) part = face::row({part});
            return part;
        };
        for (const auto& [root, isKept] :
             {std::pair(nested(FacePart::kMostLevels), true), std::pair(nested(FacePart::kMostLevels + 1), false),
              std::pair(nested(28), false), std::pair(face::row(std::vector<FacePart>(199, face::text("x"))), true),
              std::pair(face::row(std::vector<FacePart>(200, face::text("x"))), false),
              std::pair(face::row(std::vector<FacePart>(5000, face::row({face::text("x")}))), false)}) {
            Design d = design();
            only(d, root);
            const auto read = designFromJson(toJson(d));
            QVERIFY2(read.ok(), read.ok() ? "" : read.error().message.c_str());
            QCOMPARE(read->design.faces.size(), std::size_t{isKept ? 1U : 0U});
            QCOMPARE(read->findings.empty(), isKept);
        }
    }

    void nonsenseBecomesDefaults() {
        const auto read = designFromJson(R"({"jollyrow": 1, "faces": [
            {"name": "a", "root": {"kind": "bar", "colour": "red", "bar": {"ends": "fixed", "from": 9, "to": 1}, "glow": 3}},
            {"name": "a", "root": {}}, {"root": {}}, 7, {"name": "b", "root": {"kind": "barrel", "larger": 99, "parts": [1]}}]})");
        QVERIFY(read.ok());
        QCOMPARE(read->design.faces.size(), std::size_t{2});
        const FacePart& bar = read->design.faces[0].root;
        QVERIFY(bar.kind == FacePartKind::Bar && bar.colour.empty() && bar.bar.from == 0 && bar.bar.to == 100);
        QVERIFY(bar.unknown.find("glow") != std::string::npos);
        QVERIFY(toJson(read->design).find("glow") != std::string::npos);
        QCOMPARE(read->findings.size(), std::size_t{9});
    }

    void readyFacesSuitTheirTypes() {
        for (int t = 0; t <= static_cast<int>(Type::Interval); ++t) {
            const auto type = static_cast<Type>(t);
            const auto ready = readyFaces(type, Use::Plain);
            QVERIFY(!ready.empty() && ready.front() == ReadyFace::Text);
            const auto schema = (*openSource(path_.toStdString()))->schema({"boats", ""});
            for (const FieldSchema& field : schema->fields) {
                if (field.type != type) continue;
                for (std::size_t i = 1; i < ready.size(); ++i) {
                    Design d = design();
                    only(d, readyFace(ready[i], {"Booked", "it's done"}), field.name.c_str());
                    const Seen s = seen(d);
                    QVERIFY2(s.plan.findings.empty(),
                             s.plan.findings.empty() ? "" : s.plan.findings.front().message.c_str());
                    QVERIFY(column(s, field.name.c_str()).face);
                }
            }
        }
    }
};

QTEST_GUILESS_MAIN(FaceTest)
#include "face_test.moc"
