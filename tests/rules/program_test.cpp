// SPDX-License-Identifier: MIT
// What every program promises to those that run it, over random rules: the order of its instructions, that each is
// needed, that names and windows are in range; and that taking out what is not needed changes no result.
#include <QtTest>

#include <random>
#include <set>

#include "core/rules/evaluator.h"
#include "core/rules/program.h"
#include "tests/rules/rule_generator.h"
#include "tests/rules/rule_records.h"
#include "tests/turns.h"

using namespace jollyrow;

namespace {

/// All instructions that one reads, by operand or by its window.
std::vector<std::uint32_t> readBy(const Program& program, const Instruction& instruction) {
    std::vector<std::uint32_t> all = instruction.operands;
    if (instruction.op != Op::Window) return all;
    const WindowSpec& spec = program.windows.at(instruction.index);
    WindowSpec::eachRef(spec, [&](std::uint32_t ref) { all.push_back(ref); });
    return all;
}

/// The first promise that is broken, in words; "" when all are kept.
std::string brokenPromise(const Program& program, const TableSchema& schema) {
    std::vector<bool> read(program.code.size(), false);
    std::set<FieldIndex> loaded;
    read.back() = true;
    for (std::size_t at = program.code.size(); at-- > 0;) {
        const Instruction& instruction = program.code[at];
        if (!read[at]) return "instruction " + std::to_string(at) + " is read by none";
        for (const std::uint32_t ref : readBy(program, instruction)) {
            if (ref >= at) return "instruction " + std::to_string(at) + " reads a later one";
            read[ref] = true;
        }
        if (instruction.op != Op::Load) continue;
        if (instruction.index >= schema.fields.size()) return "a field that is not there";
        loaded.insert(static_cast<FieldIndex>(instruction.index));
    }
    const std::set<FieldIndex> said(program.fields.begin(), program.fields.end());
    if (said.size() != program.fields.size()) return "a field is named twice";
    for (const FieldIndex field : loaded)
        if (!said.contains(field)) return "field " + std::to_string(raw(field)) + " is loaded and not named";
    return {};
}

}  // namespace

class ProgramTest : public QObject {
    Q_OBJECT
    std::shared_ptr<const Table> table_ = test::tableOf(test::hardFields());

    std::vector<std::string> results(const std::shared_ptr<const Program>& program) const {
        EvaluationInput input;
        input.table = table_;
        input.edits = std::make_shared<Edits>();
        std::vector<std::string> all;
        for (std::size_t row = 0; row < std::min<std::size_t>(table_->rows, 12); ++row) {
            const auto cell = evaluateOne(program, input, static_cast<SourceRow>(row));
            all.push_back(!cell                              ? cell.error().message
                          : isError(cell->state)             ? std::string(words(cell->state))
                          : cell->state == CellState::Filled ? textOf(cell->value)
                                                             : "empty");
        }
        return all;
    }

  private Q_SLOTS:
    void randomRulesKeepAllPromises() {
        const std::vector<RuleKind> kinds{RuleKind::Boolean, RuleKind::Integer, RuleKind::Decimal,  RuleKind::Real,
                                          RuleKind::Date,    RuleKind::Text,    RuleKind::Timestamp};
        int compiled = 0;
        for (unsigned seed = 1; seed <= static_cast<unsigned>(test::turns(3000)); ++seed) {
            test::Generator generator(seed);
            const std::string rule = generator.make(kinds[seed % kinds.size()], 4);
            const auto program = compileRule(rule, table_->schema, {});
            if (!program) continue;  // literals that the grammar can spell and a type cannot hold
            ++compiled;
            const std::string broken = brokenPromise(**program, table_->schema);
            QVERIFY2(broken.empty(), (rule + ": " + broken + "\n" + (*program)->dump()).c_str());
            const auto again = compileRule(rule, table_->schema, {});
            QVERIFY2(again.ok() && sameMeaning(*program, *again), rule.c_str());
        }
        QVERIFY2(compiled > test::turns(3000) / 2, "too few of the rules were rules");
    }

    /// Instructions that nobody reads, put in anywhere, go out again; the program means and gives what it did.
    void whatNobodyReadsIsTakenOut() {
        std::mt19937 random(11);
        for (unsigned seed = 1; seed <= static_cast<unsigned>(test::turns(400)); ++seed) {
            test::Generator generator(seed);
            const std::string rule = generator.make(RuleKind::Integer, 3);
            const auto program = compileRule(rule, table_->schema, {});
            if (!program) continue;
            auto padded = std::make_shared<Program>(**program);
            for (int n = 0; n < 5; ++n) {
                const auto at = static_cast<std::uint32_t>(random() % padded->code.size());
                for (Instruction& other : padded->code)
                    for (std::uint32_t& ref : other.operands) ref += ref >= at ? 1 : 0;
                Instruction idle;
                idle.op = Op::Constant;
                idle.type = RuleType{RuleKind::Integer};
                idle.constant = std::int64_t{n};
                padded->code.insert(padded->code.begin() + at, idle);
            }
            QVERIFY(!brokenPromise(*padded, table_->schema).empty());
            dropUnused(*padded, static_cast<std::uint32_t>(padded->code.size() - 1));
            QCOMPARE(padded->code.size(), (*program)->code.size());
            QVERIFY2(sameMeaning(padded, *program), (rule + "\n" + padded->dump()).c_str());
            QVERIFY2(results(padded) == results(*program), rule.c_str());
        }
    }

    /// A literal that was read as the kind beside it is one constant; what it was before is gone.
    void convertedLiteralsLeaveNothing_data() {
        QTest::addColumn<QString>("rule");
        QTest::addColumn<int>("instructions");
        QTest::newRow("a quoted number") << "i + '2'" << 3;
        QTest::newRow("a quoted number first") << "'2' + i" << 3;
        QTest::newRow("a quoted day") << "CAST('2026-11-29' AS DATE) > '2026-01-01'" << 4;
        QTest::newRow("a list") << "i IN ('1', '2', '3')" << 5;
        QTest::newRow("the same column twice") << "i * i" << 3;
    }
    void convertedLiteralsLeaveNothing() {
        QFETCH(QString, rule);
        QFETCH(int, instructions);
        const auto program = compileRule(rule.toStdString(), table_->schema, {});
        QVERIFY2(program.ok(), program.ok() ? "" : program.error().message.c_str());
        QCOMPARE(brokenPromise(**program, table_->schema), std::string());
        QVERIFY2(static_cast<int>((*program)->code.size()) <= instructions, (*program)->dump().c_str());
    }

    void windowsAreReadToo() {
        const auto program = compileRule("SUM(i + 1) OVER (PARTITION BY j, d) + 1", table_->schema, {});
        QVERIFY2(program.ok(), program.ok() ? "" : program.error().message.c_str());
        QCOMPARE(brokenPromise(**program, table_->schema), std::string());
        QCOMPARE((*program)->windows.size(), std::size_t{1});
        QCOMPARE((*program)->fields.size(), std::size_t{3});
    }
};

QTEST_GUILESS_MAIN(ProgramTest)
#include "program_test.moc"
