// SPDX-License-Identifier: MIT
// Checks: what a design and a database demand of an edited record, in which order and words; kept in the file.
#include <QtTest>

#include "core/columns/column_builder.h"
#include "core/design/design_file.h"
#include "core/design/planned_check.h"
#include "core/rows/record_set.h"

using namespace jollyrow;

namespace {

TableSchema schemaOf() {
    TableSchema schema;
    schema.name = "jobs";
    const auto add = [&](const char* name, Type type) -> FieldSchema& {
        FieldSchema field;
        field.name = name;
        field.type = type;
        return schema.fields.emplace_back(field);
    };
    FieldSchema& number = add("number", Type::Integer);
    number.primaryKeyRank = 1;
    number.required = true;
    FieldSchema& work = add("work", Type::Text);
    work.required = true;
    work.maxLength = 5;
    FieldSchema& status = add("status", Type::Text);
    status.permitted = {"Booked", "Done"};
    add("hours", Type::Integer);
    add("least", Type::Integer);
    schema.checks = {"hours >= 0", "least <= hours", "typeof(work) = 'text'"};
    return schema;
}

std::shared_ptr<const Table> tableOf(const TableSchema& schema) {
    auto table = std::make_shared<Table>();
    table->schema = schema;
    for (const FieldSchema& field : schema.fields) {
        ColumnBuilder builder(field);
        ColumnChunk chunk;
        chunk.reset(field.type, 0, builder.prefersArena());
        for (int i = 0; i < 3; ++i)
            field.type == Type::Integer ? chunk.addInteger(i + 1) : chunk.addText(i == 1 ? "Done" : "Booked");
        builder.append(chunk);
        table->columns.push_back(builder.share());
    }
    table->rows = 3;
    return table;
}

}  // namespace

class CheckTest : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void init() {
        schema_ = schemaOf();
        design_ = Design();
        edits_ = std::make_shared<Edits>();
        findings_.clear();
    }

    void theDatabasesDemandsAreChecks() {
        plan();
        QCOMPARE(findings_.size(), std::size_t{0});
        QVERIFY(problems(0).empty());  // nothing is edited, whatever stands there
        type(0, 1, std::string("rewire"));
        QCOMPARE(words(0), QString("work: work takes at most 5 characters."));
        type(0, 1, std::string("caulk"));
        QCOMPARE(words(0), QString());
        type(0, 1, std::string("\xc3\xa4\xc3\xb6\xc3\xbc\xc3\xa4\xc3\xb6"));  // five letters in ten bytes
        QCOMPARE(words(0), QString());
        type(0, 1, Empty{});
        QCOMPARE(words(0), QString("work: work must not be empty."));
        type(0, 1, std::string("x"));
        type(0, 2, std::string("Lost"));
        QCOMPARE(words(0), QString("status: status takes only: Booked, Done."));
        type(0, 2, Empty{});  // an empty value breaks no rule
        QCOMPARE(words(0), QString());
        type(0, 3, std::int64_t{-1});
        QCOMPARE(words(0),
                 QString("hours: The database demands: hours >= 0|record: The database demands: least <= hours"));
        type(0, 3, Empty{});
        QCOMPARE(words(0), QString());
    }

    /// What the database compares in its own way is its own to judge.
    void checksOfTextsAreLeftToTheDatabase() {
        schema_.checks = {"work LIKE 'A%'", "work <> 'x'", "hours > 0 OR work = 'y'"};
        plan();
        type(0, 1, std::string("x"));
        type(0, 3, std::int64_t{-1});
        QCOMPARE(words(0), QString());
    }

    void aNewRecordIsAskedForAll() {
        plan();
        RecordEdit made;
        made.setFate(RecordFate{RecordChange::Insert, EditState::Draft, {}, {}, 0});
        made.set(FieldIndex{1}, {Empty{}, Empty{}, EditState::Draft, {}, {}});
        edits_->setRecord(SourceRow{2}, made);
        QCOMPARE(words(2), QString("work: work must not be empty."));  // the key is the database's own
        RecordEdit gone;
        gone.setFate(RecordFate{RecordChange::Delete, EditState::Draft, {}, {}, 0});
        edits_->setRecord(SourceRow{2}, gone);
        QCOMPARE(words(2), QString());
    }

    void theFirstOfEachFieldIsSaid() {
        schema_.checks.clear();
        design_.columns = {{}};
        design_.columns[0].field = "hours";
        design_.columns[0].heading = "Hours";
        design_.checks = {
            {"a", "hours", "hours < 10", "Too many: {hours}.", false, true, {}},
            {"b", "hours", "hours < 5", "Never said.", false, true, {}},
            {"c", "", "hours + least < 12", "", false, true, {}},
            {"d", "least", "least <> 3", "Odd.", true, true, {}},
            {"off", "", "FALSE", "Never said.", false, false, {}},
        };
        plan();
        type(0, 3, std::int64_t{40});
        type(0, 4, std::int64_t{3});
        QCOMPARE(words(0), QString("hours: Too many: 40.|record: This does not hold: hours + least < 12|least: Odd.?"));
        RecordEdit record = *edits_->record(SourceRow{0});
        QVERIFY(!isBlocked(record));  // not noted yet
        record.setProblems(problems(0));
        QVERIFY(isBlocked(record));
        QVERIFY(problemAt(record, FieldIndex{3}) && !problemAt(record, FieldIndex{1}));
        // An overridden warning stays so as long as it says the same.
        std::vector<RecordProblem> noted = record.problems();
        noted[2].isOverridden = true;
        record.setProblems(noted);
        edits_->setRecord(SourceRow{0}, record);
        QVERIFY(problems(0)[2].isOverridden);
        type(0, 3, std::int64_t{1});
        record = *edits_->record(SourceRow{0});
        record.setProblems(problems(0));
        QVERIFY(!isBlocked(record));
    }

    void whatMakesNoSenseIsAFinding() {
        design_.checks = {
            {"gone", "nowhere", "hours > 1", "", false, true, {}},
            {"wrong", "", "hours >", "", false, true, {}},
            {"number", "", "hours + 1", "", false, true, {}},
            {"all", "", "hours < SUM(hours) OVER ()", "", false, true, {}},
            {"words", "", "hours > 1", "{hours, number", false, true, {}},
        };
        plan();
        QCOMPARE(findings_.size(), std::size_t{5});
        for (std::size_t i = 0; i < findings_.size(); ++i) {
            QVERIFY2(findings_[i].message.find(design_.checks[i].name) != std::string::npos,
                     findings_[i].message.c_str());
            QVERIFY(findings_[i].where.starts_with("checks/"));
        }
    }

    /// A check, its counting rule and its judgement of one record agree, whatever the values.
    void countsAgreeWithJudgements() {
        schema_.checks.clear();
        std::mt19937 random(7);
        const char* rules[] = {"hours > least",   "hours BETWEEN 2 AND 5", "status = 'Done' OR hours < 3",
                               "work LIKE '%a%'", "hours IS NOT NULL",     "100 / hours > 20"};
        for (int turn = 0; turn < 300; ++turn) {
            edits_ = std::make_shared<Edits>();
            design_.checks = {{"c", "", rules[random() % std::size(rules)], "", false, true, {}}};
            plan();
            for (std::uint32_t row = 0; row < 3; ++row)
                for (std::uint32_t field = 2; field < 5; ++field)
                    type(row, field,
                         random() % 4 == 0 ? Value(Empty{})
                         : field == 2      ? Value(std::string(random() % 2 ? "Done" : "Booked"))
                                           : Value(static_cast<std::int64_t>(random() % 8)));
            const auto failing = compileRule(failingRule(design_.checks[0]), schema_, {}, {RuleKind::Boolean});
            QVERIFY(failing.ok());
            const auto set = rowsWhere(*failing, input(), Cancel());
            for (std::uint32_t row = 0; row < 3; ++row) {
                bool isBroken = false;
                for (const RecordProblem& problem : problems(row)) isBroken = isBroken || problem.check == "c";
                QCOMPARE(isBroken, (*set)->contains(row));
            }
        }
    }

    void theFileKeepsThem() {
        Design design;
        design.checks = {{"a", "hours", "hours < 10", "Too many: {hours}.", true, false, {}},
                         {"b", {}, "x", {}, false, true, {}}};
        design.grid.saving = Saving::Together;
        design.grid.keepsDrafts = true;
        design.grid.canDelete = false;
        design.grid.version = "count";
        design.grid.entryLine = EntryLinePlace::Top;
        ColumnDesign column;
        column.field = column.heading = "work";
        column.entry = {EntryKind::Rating, 7, "[A-Z]+", true, {}};
        design.columns = {column};
        const auto read = designFromJson(toJson(design));
        QVERIFY(read.ok());
        QCOMPARE(read->design.checks, design.checks);
        QCOMPARE(read->design.grid, design.grid);
        QCOMPARE(read->design.columns[0].entry, column.entry);
        const auto strange = designFromJson(
            R"({"jollyrow": 1, "columns": [{"field": "a", "entry": {"kind": "dance", "most": 99, "other": 1}}]})");
        QVERIFY(strange.ok() && strange->findings.size() >= 2);
        QCOMPARE(strange->design.columns[0].entry.kind, EntryKind::Automatic);
        QVERIFY(strange->design.columns[0].entry.most <= EntryDesign::kMostMarks);
        QVERIFY(toJson(strange->design).find("\"other\"") != std::string::npos);
        const auto odd = designFromJson(
            R"({"jollyrow": 1, "checks": [{"name": "n"}, 3, {"rule": "a > 1", "more": [1]}], "grid": {"saving": "never"}})");
        QVERIFY(odd.ok());
        QCOMPARE(odd->design.checks.size(), std::size_t{1});
        QCOMPARE(odd->design.checks[0].name, std::string("a > 1"));
        QVERIFY(odd->findings.size() >= 3);
        QVERIFY(toJson(odd->design).find("\"more\"") != std::string::npos);
    }

    void aPatternIsACheckOfWhatIsTyped() {
        ColumnDesign column;
        column.field = "status";
        column.heading = "Status";
        column.entry.pattern = "[A-Z][a-z]+";
        design_.columns = {column};
        plan();
        QVERIFY(findings_.empty());
        type(0, 2, std::string("done"));
        QVERIFY2(words(0).contains("Status must match [A-Z][a-z]+."), qPrintable(words(0)));
        design_.columns[0].hint = "Done";
        plan();
        QVERIFY2(words(0).contains("Status must look like Done."), qPrintable(words(0)));
        type(0, 2, std::string("Done"));
        QCOMPARE(words(0), QString());
        type(0, 2, Empty{});  // nothing need not match
        QCOMPARE(words(0), QString());
        // What nobody can tell in time does not pass for a match, and it is said why.
        design_.columns[0].hint.clear();
        design_.columns[0].entry.pattern = "(a+a+)+b";
        plan();
        type(0, 2, std::string(60, 'a') + "c");
        QVERIFY2(words(0).contains("took too long to tell"), qPrintable(words(0)));
        type(0, 2, std::string("aab"));
        QVERIFY2(!words(0).contains("must match"), qPrintable(words(0)));
        // What cannot be had is left out and said.
        design_.columns[0].entry.pattern = "(";
        plan();
        QCOMPARE(findings_.size(), std::size_t{1});
        QCOMPARE(findings_[0].where, std::string("columns/status/entry/pattern"));
        design_.columns[0].field = "hours";
        design_.columns[0].entry.pattern = "x";
        plan();
        QCOMPARE(findings_.size(), std::size_t{1});
    }

  private:
    void plan() {
        findings_.clear();
        checks_ = plannedChecks(design_, schema_, nullptr, findings_);
        table_ = tableOf(schema_);
    }
    void type(std::uint32_t row, std::uint32_t field, Value value) {
        const Value before = table_->columns[field]->value(SourceRow{row});
        edits_->set(SourceRow{row}, FieldIndex{field}, {std::move(value), before, EditState::Draft, {}, {}});
    }
    EvaluationInput input() const {
        EvaluationInput in;
        in.table = table_;
        in.edits = edits_;
        return in;
    }
    std::vector<RecordProblem> problems(std::uint32_t row) const {
        const SourceRow at{row};
        return problemsOf(checks_, input(), {&at, 1}).front();
    }
    QString words(std::uint32_t row) const {
        QStringList all;
        for (const RecordProblem& problem : problems(row))
            all << QString("%1: %2%3")
                       .arg(problem.fields.empty() ? QString("record")
                                                   : QString::fromStdString(schema_.field(problem.fields[0]).name),
                            QString::fromStdString(problem.message), problem.isWarning ? "?" : "");
        return all.join(u'|');
    }
    TableSchema schema_;
    Design design_;
    std::shared_ptr<Edits> edits_;
    std::shared_ptr<const Table> table_;
    std::vector<PlannedCheck> checks_;
    std::vector<Finding> findings_;
};

QTEST_GUILESS_MAIN(CheckTest)
#include "check_test.moc"
