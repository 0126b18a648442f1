// SPDX-License-Identifier: MIT
// jollyrow rows: the records of a design, table or SELECT, through the same stages as on the screen.
#include <fmt/format.h>

#include <cerrno>
#include <chrono>
#include <cstdio>
#include <cstring>
#include <fstream>
#include <nlohmann/json.hpp>

#include "commands/arguments.h"
#include "commands/commands.h"
#include "core/base/near_name.h"
#include "core/columns/civil.h"
#include "core/design/plan.h"
#include "core/exports/row_writer.h"
#include "core/rows/group_stage.h"
#include "core/rows/rowline.h"
#include "core/rules/conversion.h"
#include "core/rules/query_parameters.h"
#include "core/rules/sort_list.h"
#include "core/rules/syntax.h"
#include "core/session/schema_for.h"

namespace jollyrow::commands {
namespace {

/// The largest memory this process has held, in MB; from the kernel.
double peakRssMb() {
    std::ifstream status("/proc/self/status");
    for (std::string line; std::getline(status, line);)
        if (line.starts_with("VmHWM:")) return static_cast<double>(std::strtol(line.c_str() + 6, nullptr, 10)) / 1024.0;
    return 0;
}

/// Keeps only the columns named, in the order named, hidden or not.
Result<void> chooseColumns(Design& design, const TableSchema& schema, const QStringList& names) {
    std::vector<ColumnDesign> chosen;
    for (const QString& given : names) {
        const std::string field = given.trimmed().toStdString();
        if (!schema.find(field)) {
            std::vector<std::string> known;
            for (const FieldSchema& f : schema.fields) known.push_back(f.name);
            const auto near = nearestName(field, known);
            return Error{ErrorCode::NotFound,
                         fmt::format("--columns: there is no column {} in {}.{}", field, schema.name,
                                     near ? fmt::format(" Did you mean {}?", *near) : "")};
        }
        ColumnDesign column;
        column.rule = schema.field(*schema.find(field)).rule;
        if (const ColumnDesign* existing = design.column(field)) column = *existing;
        column.field = field;
        if (column.heading.empty()) column.heading = field;
        column.shown = true;
        chosen.push_back(std::move(column));
    }
    design.columns = std::move(chosen);
    return {};
}

/// Takes in related fields that the arguments name. The summaries' text need not be a rule: its words are enough.
void takeRelatedOf(Opened& opened, const QStringList& columns, const std::string& where,
                   const std::vector<std::string>& keyLists, const std::string& summaries) {
    std::vector<std::string> names = columnsNamed(where);
    for (const QString& given : columns) names.push_back(given.trimmed().toStdString());
    for (const std::string& list : keyLists)
        if (const auto keys = parseSortKeys(list))
            for (const SyntaxSortKey& key : *keys)
                for (const SyntaxNode& node : key.expression.nodes)
                    if (node.kind == SyntaxKind::Column) names.push_back(node.text);
    for (std::string& name : namesIn(summaries)) names.push_back(std::move(name));
    takeRelated(opened, names);
}

Result<void> readParameters(const QStringList& given, const Design& design, std::map<std::string, RuleValue>& out) {
    for (const QString& one : given) {
        const std::string text = one.toStdString();
        const std::size_t sign = text.find('=');
        const std::string name = text.substr(0, sign);
        const auto known = std::find_if(design.parameters.begin(), design.parameters.end(),
                                        [&](const ParameterDesign& p) { return p.name == name; });
        if (sign == std::string::npos || known == design.parameters.end())
            return Error{ErrorCode::InvalidInput,
                         fmt::format("--set: the design has no parameter \"{}\". It is written name=value.", name)};
        const auto value = convertedConstant(text.substr(sign + 1), ruleKindOf(known->type));
        if (!value)
            return Error{ErrorCode::InvalidInput,
                         fmt::format("--set: \"{}\" is not {}.", text.substr(sign + 1), article(known->type))};
        out.insert_or_assign(name, *value);
    }
    return {};
}

void printTimings(const Snapshot& snapshot) {
    const nlohmann::ordered_json timings = {{"rows_in", snapshot.source.rowsIn},
                                            {"rows_out", snapshot.recordCount()},
                                            {"load_ms", snapshot.source.milliseconds},
                                            {"filter_ms", snapshot.filter.milliseconds},
                                            {"sort_ms", snapshot.sort.milliseconds},
                                            {"group_ms", snapshot.group.milliseconds},
                                            {"summarise_ms", snapshot.summaries.milliseconds},
                                            {"peak_rss_mb", peakRssMb()}};
    std::fprintf(stderr, "%s\n", timings.dump().c_str());
}

Result<void> toStdout(std::string_view text) {
    if (std::fwrite(text.data(), 1, text.size(), stdout) == text.size()) return {};
    const ErrorCode code = errno == ENOSPC ? ErrorCode::DiskFull : ErrorCode::Io;
    return Error{code, fmt::format("Writing the rows failed: {}.", std::strerror(errno))};
}

}  // namespace

int rows(const QStringList& arguments) {
    QCommandLineParser parser;
    parser.setApplicationDescription("\nPrints the records of a design, a table or a SELECT.");
    parser.addPositionalArgument("WHAT", "A design (.jrow) or an SQLite database file.");
    parser.addOptions(
        {{"table", "The table or view, when WHAT is a database.", "T"},
         {"query", "A SELECT to take the records from instead.", "SELECT"},
         {"source", "A database to use instead of the design's.", "FILE"},
         {"columns", "Only these columns, in this order.", "a,b,…"},
         {"where", "Only records for which this condition holds, e.g. \"hours > 2 AND vessel.name LIKE 'O%'\".",
          "RULE"},
         {"set", "The value of a parameter: name=value. May stand several times.", "NAME=VALUE"},
         {"sort", "A SQL sort list, e.g. \"due_on DESC NULLS LAST, EXTRACT(MONTH FROM booked_on)\".", "LIST"},
         {"group", "Group by a SQL list of keys, outermost first, e.g. \"status, EXTRACT(YEAR FROM due_on)\".", "LIST"},
         {"summary", "Sum up each group and all, e.g. \"COUNT(*), SUM(hours) AS hours, AVG(labour)\".", "LIST"},
         {"limit", "At most N lines; of records when they are grouped.", "N"},
         {"format", "text (default), csv or jsonl.", "FORMAT", "text"},
         {"timings", "Print what each stage took, as JSON on stderr."}});
    if (const auto code = parse(parser, "rows", arguments, 1)) return *code;

    RowWriting writing;
    const auto format = rowFormatFromName(parser.value("format").toStdString());
    if (!format) {
        complain(fmt::format("--format is text, csv or jsonl, not \"{}\".", parser.value("format").toStdString()));
        return kUsage;
    }
    writing.format = *format;
    if (parser.isSet("limit")) {
        bool isNumber = false;
        writing.limit = parser.value("limit").toLongLong(&isNumber);
        if (!isNumber || writing.limit < 0) {
            complain(
                fmt::format("--limit takes a whole number from 0, not \"{}\".", parser.value("limit").toStdString()));
            return kUsage;
        }
    }
    auto opened = open({parser.positionalArguments().first().toStdString(), parser.value("table").toStdString(),
                        parser.value("query").toStdString(), parser.value("source").toStdString()});
    if (!opened) return complain(withPlace(opened.error(), parser.value("query").toStdString())), kFailed;
    const std::string where = parser.value("where").toStdString(), sort = parser.value("sort").toStdString();
    const std::string group = parser.value("group").toStdString(), summary = parser.value("summary").toStdString();
    takeRelatedOf(*opened, parser.isSet("columns") ? parser.value("columns").split(',') : QStringList(), where,
                  {sort, group}, summary);
    if (parser.isSet("columns"))
        if (auto chosen = chooseColumns(opened->design, opened->schema, parser.value("columns").split(',')); !chosen)
            return complain(chosen.error().message), kUsage;
    ViewPlan plan = planOf(opened->design, opened->schema);
    for (const Finding& finding : plan.findings) complain(finding.message);
    const RuleVocabulary vocabulary = vocabularyOf(opened->design);
    if (parser.isSet("where")) {
        BindOptions condition;
        condition.expected = RuleKind::Boolean;
        auto program = compileRule(where, opened->schema, vocabulary, condition);
        if (!program) return complain("--where: " + withPlace(program.error(), where)), kUsage;
        plan.filter.push_back({where, *program});
    }
    if (parser.isSet("sort")) {
        auto keys = parseSortList(sort, opened->schema, vocabulary);
        if (!keys) return complain("--sort: " + withPlace(keys.error(), sort)), kUsage;
        for (SortTerm& term : *keys) term.text.locale = opened->design.locale;
        plan.sort = *keys;
    }
    auto levels = parseSortList(group, opened->schema, vocabulary);
    if (!levels) return complain("--group: " + withPlace(levels.error(), group)), kUsage;
    for (SortTerm& term : *levels) term.text.locale = opened->design.locale;
    auto summaries = parseSummaryList(summary, opened->schema, vocabulary);
    if (!summaries) return complain("--summary: " + withPlace(summaries.error(), summary)), kUsage;
    auto parameters = parametersOf(opened->design);
    if (auto read = readParameters(parser.values("set"), opened->design, parameters); !read)
        return complain(read.error().message), kUsage;

    LoadRequest request;
    request.binding = bindingFor(opened->design, opened->schema);
    // Only what is printed or sorted by is read.
    request.wanted.assign(opened->schema.fields.size(), false);
    ViewPlan reads = plan;
    reads.sort.insert(reads.sort.end(), levels->begin(), levels->end());
    addFieldsRead(reads, request.wanted);
    for (const SummaryRule& rule : *summaries)
        for (const FieldIndex field : fieldsOf(rule)) request.wanted[raw(field)] = true;
    std::erase_if(plan.computed, [&](const ComputedTerm& term) { return !request.wanted[raw(term.field)]; });
    request.wanted.resize(opened->schema.storedFields());
    for (const std::string& name : parametersIn(request.binding.query))
        if (const auto given = parameters.find(name); given != parameters.end())
            request.parameters.emplace(name, plainValue(given->second));
    const Cancel cancel;
    const auto begun = std::chrono::steady_clock::now();
    auto table = opened->source->load(request, cancel);
    if (!table) return complain(table.error().message), kFailed;
    const double loadMs = std::chrono::duration<double, std::milli>(std::chrono::steady_clock::now() - begun).count();
    Rowline rowline;
    RowlineInput input;
    input.table = withSchema(**table, opened->schema);
    input.computed = plan.computed;
    // An empty parameter restricts nothing.
    for (const FilterTerm& term : plan.filter)
        if (std::all_of(term.program->parameters.begin(), term.program->parameters.end(),
                        [&](const auto& used) { return parameters.contains(used.name); }))
            input.filter.push_back(term);
    input.sort = plan.sort;
    input.parameters = std::move(parameters);
    input.today = today();
    input.now = static_cast<std::int64_t>(input.today) * kMicrosPerDay;
    input.loadMilliseconds = loadMs;
    input.generation = 1;
    auto snapshot = rowline.run(input, cancel);
    if (!snapshot) return complain(snapshot.error().message), kFailed;
    if (const auto& filter = (*snapshot)->filter; filter.failed != 0)
        complain(fmt::format("{} records were left out because a condition failed on them: {}.", filter.failed,
                             words(filter.failure)));
    Result<void> written;
    if (levels->empty() && summaries->empty()) {
        written = writeRows(**snapshot, plan.columns, writing, toStdout, cancel);
    } else {
        EvaluationInput records = rowline.evaluationInput(input);
        records.table = (*snapshot)->table;
        records.edits = (*snapshot)->edits;
        const auto grouped =
            groupRows(groupTermsOf(*levels), summarySpecsOf(*summaries), (*snapshot)->order, records, cancel);
        if (!grouped) return complain(grouped.error().message), kFailed;
        std::vector<std::string> names;
        for (const SortTerm& term : *levels)
            names.push_back(term.field ? opened->schema.field(*term.field).name : term.rule);
        written = writeGroups(**snapshot, **grouped, names, *summaries, plan.columns, writing, toStdout, cancel);
    }
    if (!written) return complain(written.error().message), kFailed;
    if (std::fflush(stdout) != 0)
        return complain(fmt::format("Writing the rows failed: {}.", std::strerror(errno))), kFailed;
    if (const std::size_t misfits = (*table)->misfitCount(); misfits != 0)
        complain(fmt::format("{} values do not fit their column's type and were taken as empty.", misfits));
    if (parser.isSet("timings")) printTimings(**snapshot);
    return kDone;
}

}  // namespace jollyrow::commands
