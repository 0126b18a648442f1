// SPDX-License-Identifier: MIT
// jollyrow rule: what a rule is, what it gives for the first records, and the SQL a database would be asked with.
#include <fmt/format.h>

#include <chrono>

#include "commands/arguments.h"
#include "commands/commands.h"
#include "core/columns/time_zone.h"
#include "core/design/plan.h"
#include "core/rules/conversion.h"
#include "core/rules/evaluator.h"
#include "core/rules/sql_writer.h"
#include "core/rules/syntax.h"
#include "core/session/schema_for.h"

namespace jollyrow::commands {
namespace {

void printSql(const Program& program, const Opened& opened, SqlDialect dialect, const SqlOptions& options) {
    const auto sql = sqlOf(program, opened.schema, dialect, options);
    if (!sql) {
        fmt::print("{:<11}{}\n", fmt::format("{}:", name(dialect)), sql.error().message);
        return;
    }
    fmt::print("{:<11}{}\n", fmt::format("{}:", name(dialect)), sql->text);
    for (std::size_t i = 0; i < sql->values.size(); ++i)
        fmt::print("{:<11}{}{} = {}\n", "", dialect == SqlDialect::PostgreSql ? '$' : '?', i + 1,
                   constantText(sql->values[i]));
}

/// All records, with what the rule reads of them.
Result<std::shared_ptr<const Table>> loadFor(const Opened& opened, const std::string& text,
                                             const std::shared_ptr<const Program>& program,
                                             const EvaluationInput& situation) {
    LoadRequest request;
    request.binding = bindingFor(opened.design, opened.schema);
    request.wanted.assign(opened.schema.fields.size(), false);
    ViewPlan reads;
    reads.computed = computedTerms(opened.design, opened.schema);
    reads.filter.push_back({text, program});
    addFieldsRead(reads, request.wanted);
    std::erase_if(reads.computed, [&](const ComputedTerm& term) { return !request.wanted[raw(term.field)]; });
    request.wanted.resize(opened.schema.storedFields());
    auto table = opened.source->load(request, Cancel());
    if (!table) return table.error();
    EvaluationInput input = situation;
    input.table = withSchema(**table, opened.schema);
    auto computed = ComputeStage().run(reads.computed, input, Cancel());
    if (!computed) return computed.error();
    return computed->table;
}

}  // namespace

int rule(const QStringList& arguments) {
    QCommandLineParser parser;
    parser.setApplicationDescription("\nSays what a rule is, what it gives for the first records, and its SQL.");
    parser.addPositionalArgument("RULE", "An expression of the rule language, e.g. \"EXTRACT(MONTH FROM due_on)\".");
    parser.addOptions({{"source", "A design (.jrow) or an SQLite database file.", "WHAT"},
                       {"table", "The table or view, when WHAT is a database.", "T"},
                       {"zone", "Whose clocks show points of time; without it, this machine's.", "ZONE"},
                       {"limit", "For how many records, 5 if not said.", "N", "5"}});
    if (const auto code = parse(parser, "rule", arguments, 1)) return *code;
    const std::string text = parser.positionalArguments().first().toStdString();
    bool isNumber = false;
    const qlonglong limit = parser.value("limit").toLongLong(&isNumber);
    if (!isNumber || limit < 0) return complain("--limit takes a whole number from 0."), kUsage;
    if (!parser.isSet("source"))
        return complain("rule needs --source: the design or database whose columns it may name."), kUsage;
    auto opened = open({parser.value("source").toStdString(),
                        parser.value("table").toStdString(),
                        {},
                        {},
                        {},
                        parser.value("zone").toStdString()});
    if (!opened) return complain(opened.error().message), kFailed;
    takeRelated(*opened, columnsNamed(text));
    const auto program = compileRule(text, opened->schema, vocabularyOf(opened->design));
    if (!program) return complain(withPlace(program.error(), text)), kFailed;

    const RuleType type = (*program)->type();
    fmt::print("{:<11}{}{}\n", "type:", name(type.kind),
               type.kind == RuleKind::Decimal && type.scale >= 0 ? fmt::format(" ({} decimals)", type.scale) : "");
    EvaluationInput input;
    const TimeZone& zone = zoneOf(opened->schema);
    input.today = zone.today();
    input.now = zone.localNow();
    input.parameters = parametersOf(opened->design);
    auto table = loadFor(*opened, text, *program, input);
    if (!table) return complain(table.error().message), kFailed;
    input.table = *table;
    auto evaluation = Evaluation::prepare(*program, input, Cancel());
    if (!evaluation) return complain(evaluation.error().message), kFailed;
    Runner runner(*evaluation);
    for (std::size_t row = 0; row < std::min<std::size_t>((*table)->rows, static_cast<std::size_t>(limit)); ++row) {
        const EvaluatedCell cell = cellOf(runner.run(row, 1), 0);
        fmt::print("{:<11}{}\n", fmt::format("record {}:", row + 1),
                   cell.state == CellState::Filled  ? localTextOf(cell.value, zone)
                   : cell.state == CellState::Empty ? "(empty)"
                                                    : fmt::format("error: {}", words(cell.state)));
    }
    SqlOptions options;
    options.today = input.today;
    options.now = input.now;
    options.parameters = input.parameters;
    printSql(**program, *opened, SqlDialect::Sqlite, options);
    printSql(**program, *opened, SqlDialect::PostgreSql, options);
    return kDone;
}

}  // namespace jollyrow::commands
