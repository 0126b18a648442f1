// SPDX-License-Identifier: MIT
// Computed columns: the fields a design's rules make, what is wrong with them, their values against the rule itself
// record by record over random edits and parameters, and what depends on them.
#include <QtTest>

#include <random>

#include "core/design/plan.h"
#include "core/rules/evaluator.h"
#include "core/session/schema_for.h"
#include "tests/rules/rule_records.h"
#include "tests/turns.h"

using namespace jollyrow;

namespace {

Design designWith(const std::vector<std::pair<std::string, std::string>>& columns) {
    Design design;
    for (const auto& [name, rule] : columns) {
        ColumnDesign column;
        column.field = column.heading = name;
        column.rule = rule;
        design.columns.push_back(std::move(column));
    }
    return design;
}

QString findingsOf(const Design& design, const TableSchema& schema) {
    QStringList out;
    for (const Finding& finding : planOf(design, withComputedFields(schema, design)).findings)
        out << QString::fromStdString(finding.message);
    return out.join('\n');
}

}  // namespace

class ComputedTest : public QObject {
    Q_OBJECT
    std::shared_ptr<const Table> table_ = test::tableOf(test::hardFields(), 30);

  private Q_SLOTS:
    void fieldsStandBehindThoseTheyRead() {
        const Design design =
            designWith({{"c", "b2 + 1"}, {"b2", "i * 2"}, {"half", "d / 3"}, {"word", "UPPER(s)"}, {"day", "dt + 1"}});
        const TableSchema schema = withComputedFields(table_->schema, design);
        const std::size_t stored = table_->schema.fields.size();
        QCOMPARE(schema.storedFields(), stored);
        QCOMPARE(schema.fields.size(), stored + 5);
        QVERIFY(raw(*schema.find("c")) > raw(*schema.find("b2")));
        QCOMPARE(schema.field(*schema.find("half")).type, Type::Decimal);
        QCOMPARE(schema.field(*schema.find("half")).scale, kComputedScale);
        QCOMPARE(schema.field(*schema.find("word")).type, Type::Text);
        QCOMPARE(schema.field(*schema.find("day")).type, Type::Date);
        QVERIFY(withComputedFields(schema, design) == schema);  // made anew, not twice
        QVERIFY(withComputedFields(schema, Design()) == table_->schema);
        const ViewPlan plan = planOf(design, schema);
        QVERIFY(plan.findings.empty());
        for (const PlannedColumn& column : plan.columns) QVERIFY(!column.editable);
        std::vector<bool> wanted(schema.fields.size(), false);
        ViewPlan one = plan;
        std::erase_if(one.columns, [](const PlannedColumn& c) { return c.design.field != "c"; });
        addFieldsRead(one, wanted);
        QVERIFY(wanted[raw(*schema.find("b2"))] && wanted[raw(*schema.find("i"))] && !wanted[raw(*schema.find("d"))]);
    }

    void whatCannotBeComputedIsSaid_data() {
        QTest::addColumn<QString>("name");
        QTest::addColumn<QString>("rule");
        QTest::addColumn<QString>("expected");
        QTest::newRow("itself") << "x"
                                << "x + 1"
                                << "reads the column itself";
        QTest::newRow("circle") << "x"
                                << "y + 1"
                                << "have no beginning";
        QTest::newRow("taken") << "i"
                               << "j + 1"
                               << "has a column i already";
        QTest::newRow("name") << "a b"
                              << "j"
                              << "is no name for a column";
        QTest::newRow("span") << "x"
                              << "ts - ts"
                              << "span of time";
        QTest::newRow("unknown") << "x"
                                 << "wrong + 1"
                                 << "wrong";
        QTest::newRow("broken") << "x"
                                << "(j"
                                << "x cannot be computed";
        QTest::newRow("statement") << "x"
                                   << "1; DROP TABLE jobs"
                                   << "x cannot be computed";
    }
    void whatCannotBeComputedIsSaid() {
        QFETCH(QString, name);
        QFETCH(QString, rule);
        QFETCH(QString, expected);
        const Design design = designWith({{name.toStdString(), rule.toStdString()}, {"y", "x * 2"}});
        const QString said = findingsOf(design, table_->schema);
        QVERIFY2(said.contains(expected), qPrintable(said));
    }

    /// Whatever is edited and whichever parameters change: what is kept gives what is made anew, and each cell is what
    /// the rule gives for the edited record.
    void keptColumnsEqualNewOnes() {
        Design design = designWith({{"sum", "i + COALESCE(j, 0)"},
                                    {"ratio", "d / j"},
                                    {"label", "s || ':' || CAST(sum AS VARCHAR(30))"},
                                    {"over", "sum > :least"},
                                    {"share", "d / SUM(d) OVER ()"}});
        design.parameters.push_back({"least", "Least", Type::Integer, "3"});
        const TableSchema schema = withComputedFields(table_->schema, design);
        RowlineInput in;
        in.table = withSchema(*table_, schema);
        in.edits = std::make_shared<const Edits>();
        in.computed = computedTerms(design, schema);
        QCOMPARE(in.computed.size(), std::size_t{5});
        in.parameters = parametersOf(design);
        BindOptions condition;
        condition.expected = RuleKind::Boolean;
        in.filter.push_back({"over", *compileRule("over OR sum IS NULL", schema, vocabularyOf(design), condition)});
        SortTerm byLabel;
        byLabel.field = *schema.find("label");
        in.sort.push_back(byLabel);
        std::mt19937 random(7);
        Rowline kept;
        int failures = 0;
        for (int round = 0; round < test::turns(120); ++round) {
            if (random() % 10 == 0)
                in.parameters["least"] = static_cast<std::int64_t>(random() % 9);
            else
                in.edits = in.edits->with(static_cast<SourceRow>(random() % table_->rows),
                                          *schema.find(random() % 2 == 0 ? "j" : "i"),
                                          {static_cast<std::int64_t>(random() % 7) - 3, Empty{}, EditState::Saved, {}});
            Rowline fresh;
            const auto a = kept.run(in, Cancel()), b = fresh.run(in, Cancel());
            QVERIFY2(a.ok() && b.ok(), a ? "" : a.error().message.c_str());
            QCOMPARE((*a)->lineCount(), (*b)->lineCount());
            EvaluationInput asked;
            asked.table = (*b)->table;
            asked.edits = (*b)->edits;
            asked.parameters = in.parameters;
            for (std::int64_t n = 0; n < (*a)->lineCount(); ++n)
                QVERIFY((*a)->line(ViewLine{n}).row == (*b)->line(ViewLine{n}).row);
            for (std::size_t row = 0; row < table_->rows; row += 1 + random() % 40)
                for (const ComputedTerm& term : in.computed) {
                    const auto at = static_cast<SourceRow>(row);
                    QVERIFY((*a)->value(at, term.field) == (*b)->value(at, term.field));
                    const auto cell = evaluateOne(term.program, asked, at);
                    QVERIFY(cell.ok());
                    failures += isError(cell->state) ? 1 : 0;
                    const Value expected =
                        isError(cell->state) ? Value(Unfit{std::string(words(cell->state))}) : plainValue(cell->value);
                    QVERIFY2((*a)->value(at, term.field) == expected, qPrintable(QString("round %1").arg(round)));
                }
        }
        QVERIFY(failures > 0);
        const auto last = kept.run(in, Cancel());
        const Column* ratio = (*last)->table->column(*schema.find("ratio"));
        QVERIFY(ratio->misfitCount() > 0);  // a failed cell says why
        for (std::size_t row = 0; row < table_->rows; ++row)
            if (const auto said = ratio->misfit(static_cast<SourceRow>(row)))
                QVERIFY(*said == words(CellState::DivisionByZero) || *said == words(CellState::TooLarge));
    }
};

QTEST_APPLESS_MAIN(ComputedTest)
#include "computed_test.moc"
