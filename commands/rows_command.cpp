// SPDX-License-Identifier: MIT
// jollyrow rows: the records of a design, table or SELECT, through the same stages as on the screen.
#include <fmt/format.h>

#include <cerrno>
#include <chrono>
#include <cstdio>
#include <cstring>
#include <fstream>
#include <nlohmann/json.hpp>
#include <set>

#include "commands/arguments.h"
#include "commands/commands.h"
#include "core/base/near_name.h"
#include "core/columns/time_zone.h"
#include "core/design/plan.h"
#include "core/design/short_text.h"
#include "core/exports/row_writer.h"
#include "core/rows/group_stage.h"
#include "core/rows/rowline.h"
#include "core/rules/conversion.h"
#include "core/rules/sort_list.h"
#include "core/rules/syntax.h"
#include "core/session/schema_for.h"
#include "core/session/view_input.h"

namespace jollyrow::commands {
namespace {

/// The largest memory this process has held, in MB; from the kernel.
double peakRssMb() {
    std::ifstream status("/proc/self/status");
    for (std::string line; std::getline(status, line);)
        if (line.starts_with("VmHWM:")) return static_cast<double>(std::strtol(line.c_str() + 6, nullptr, 10)) / 1024.0;
    return 0;
}

/// Shows only the columns named, in the order named, hidden or not. Computed columns stay: others may be made from
/// them.
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
    const std::size_t shown = chosen.size();
    for (ColumnDesign& other : design.columns) {
        if (other.rule.empty() || std::any_of(chosen.begin(), chosen.begin() + static_cast<std::ptrdiff_t>(shown),
                                              [&](const ColumnDesign& c) { return c.field == other.field; }))
            continue;
        other.shown = false;
        chosen.push_back(std::move(other));
    }
    design.columns = std::move(chosen);
    return {};
}

std::vector<std::string> readAsOf(const QCommandLineParser& parser) {
    std::vector<std::string> said;
    for (const QString& one : parser.values("read-as")) said.push_back(one.toStdString());
    return said;
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

Result<void> readParameters(const QStringList& given, const Design& design, const TimeZone& zone,
                            std::map<std::string, RuleValue>& out) {
    for (const QString& one : given) {
        const std::string text = one.toStdString();
        const std::size_t sign = text.find('=');
        const std::string name = text.substr(0, sign);
        const auto known = std::find_if(design.parameters.begin(), design.parameters.end(),
                                        [&](const ParameterDesign& p) { return p.name == name; });
        if (sign == std::string::npos || known == design.parameters.end())
            return Error{ErrorCode::InvalidInput,
                         fmt::format("--set: the design has no parameter \"{}\". It is written name=value.", name)};
        const auto value = convertedConstant(text.substr(sign + 1), ruleKindOf(known->type), zone);
        if (!value)
            return Error{ErrorCode::InvalidInput,
                         fmt::format("--set: \"{}\" is not {}.", text.substr(sign + 1), article(known->type))};
        out.insert_or_assign(name, *value);
    }
    return {};
}

/// What is asked for beside the design, as typed.
struct Wishes {
    std::string where, sort, group, summary;
    QStringList columns;
    bool chooses = false;  ///< --columns was given
};

struct RowsPlan {
    ViewPlan plan;
    std::vector<SortTerm> levels;
    std::vector<SummaryRule> summaries;
};

/// All rules compiled against the opened schema.
Result<RowsPlan> planned(const Opened& opened, const Wishes& wishes) {
    RowsPlan made{planOf(opened.design, opened.schema), {}, {}};
    const RuleVocabulary vocabulary = vocabularyOf(opened.design);
    const auto wrong = [](const char* option, const Error& error, const std::string& text) {
        return Error{error.code, std::string(option) + ": " + withPlace(error, text)};
    };
    if (!wishes.where.empty()) {
        BindOptions condition;
        condition.expected = RuleKind::Boolean;
        auto program = compileRule(wishes.where, opened.schema, vocabulary, condition);
        if (!program) return wrong("--where", program.error(), wishes.where);
        made.plan.filter.push_back({wishes.where, *program});
    }
    auto keys = parseSortList(wishes.sort, opened.schema, vocabulary);
    if (!keys) return wrong("--sort", keys.error(), wishes.sort);
    if (!wishes.sort.empty()) made.plan.sort = *keys;
    auto levels = parseGroupList(wishes.group, opened.schema, vocabulary);
    if (!levels) return wrong("--group", levels.error(), wishes.group);
    made.levels = std::move(*levels);
    for (auto* terms : {wishes.sort.empty() ? nullptr : &made.plan.sort, &made.levels})
        for (std::size_t i = 0; terms && i < terms->size(); ++i) (*terms)[i].text.locale = opened.design.locale;
    auto summaries = parseSummaryList(wishes.summary, opened.schema, vocabulary);
    if (!summaries) return wrong("--summary", summaries.error(), wishes.summary);
    made.summaries = std::move(*summaries);
    std::set<std::string> names;
    for (const SummaryRule& rule : made.summaries)
        if (!names.insert(rule.name).second)
            return Error{ErrorCode::InvalidInput,
                         fmt::format("--summary: {} names two figures. Name one with AS, e.g. {} AS other.", rule.name,
                                     rule.text)};
    return made;
}

/// Only what is printed, computed or sorted by is read.
std::vector<bool> fieldsRead(const RowsPlan& planned, const TableSchema& schema) {
    std::vector<bool> wanted(schema.fields.size(), false);
    ViewPlan reads = planned.plan;
    reads.sort.insert(reads.sort.end(), planned.levels.begin(), planned.levels.end());
    for (const SummaryRule& rule : planned.summaries)
        for (const FieldIndex field : fieldsOf(rule)) wanted[raw(field)] = true;
    addFieldsRead(reads, wanted);  // last: what computed columns are made from, too
    return wanted;
}

/// What the session computes a view from, with the levels and figures of the command line in place of the design's.
RowlineInput inputOf(const RowsPlan& planned, std::shared_ptr<const Table> table, const ViewState& state) {
    const std::vector<bool> read = fieldsRead(planned, table->schema);
    RowlineInput input = viewInput(planned.plan, std::move(table), nullptr, state);
    std::erase_if(input.computed, [&](const ComputedTerm& term) { return !read[raw(term.field)]; });
    input.groups = groupTermsOf(planned.levels);
    input.summaries = summarySpecsOf(planned.summaries);
    input.footers.clear();
    input.grouping = nullptr;
    return input;
}

std::vector<std::string> levelNames(const RowsPlan& planned, const TableSchema& schema) {
    std::vector<std::string> names;
    for (const SortTerm& term : planned.levels)
        names.push_back(term.field ? schema.field(*term.field).name : term.rule);
    return names;
}

/// Says how many stored values fit no type, column by column.
void complainOfMisfits(const Table& table) {
    for (std::size_t i = 0; i < table.columns.size(); ++i) {
        const Column* column = table.columns[i].get();
        if (!column || column->misfitCount() == 0 || !table.schema.fields[i].rule.empty()) continue;
        const Misfit& first = column->misfits().front();
        std::string shown = first.text;
        shorten(shown);
        complain(
            fmt::format("{}: {} of {} values are not {} and stand as they are stored, left out of sums; the first "
                        "is \"{}\" in record {}.",
                        table.schema.fields[i].name, column->misfitCount(), table.rows,
                        article(table.schema.fields[i].type), shown, first.row + 1));
    }
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

void describe(QCommandLineParser& parser) {
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
         {"read-as",
          "How a column's values stand in the table, e.g. due=\"date dd.MM.yyyy\", at=seconds, price=\"number ,\", "
          "paid=\"words J N\". May stand several times.",
          "COLUMN=FORM"},
         {"zone", "Whose clocks show points of time, e.g. Europe/Berlin; without it, this machine's.", "ZONE"},
         {"timings", "Print what each stage took, as JSON on stderr."}});
}

/// How much of it, and in which form. The exit code where that was not said rightly.
std::variant<RowWriting, int> writingOf(const QCommandLineParser& parser) {
    RowWriting writing;
    const auto format = rowFormatFromName(parser.value("format").toStdString());
    if (!format) {
        complain(fmt::format("--format is text, csv or jsonl, not \"{}\".", parser.value("format").toStdString()));
        return kUsage;
    }
    writing.format = *format;
    if (!parser.isSet("limit")) return writing;
    bool isNumber = false;
    writing.limit = parser.value("limit").toLongLong(&isNumber);
    if (isNumber && writing.limit >= 0) return writing;
    complain(fmt::format("--limit takes a whole number from 0, not \"{}\".", parser.value("limit").toStdString()));
    return kUsage;
}

Wishes wishesOf(const QCommandLineParser& parser) {
    Wishes wishes{parser.value("where").toStdString(),
                  parser.value("sort").toStdString(),
                  parser.value("group").toStdString(),
                  parser.value("summary").toStdString(),
                  {},
                  parser.isSet("columns")};
    if (wishes.chooses) wishes.columns = parser.value("columns").split(',');
    return wishes;
}

/// What was asked for, and what has been read for it.
struct Reading {
    Opened& opened;
    const Wishes& wishes;
    RowsPlan asked;
    ViewState state;
};

/// Loads and computes. A type that had to be guessed may turn out another one: what is asked is planned again then.
Result<std::shared_ptr<const Snapshot>> snapshotOf(Reading& reading, const RowWriting& writing, bool isLimited,
                                                   const Cancel& cancel) {
    auto& [opened, wishes, asked, state] = reading;
    LoadRequest request = loadRequest(opened.design, opened.schema, fieldsRead(asked, opened.schema), state);
    request.binding.readsPictures = true;  // they are written out
    // Where the first records are all that is asked for, the others are not read: there may be no end of them.
    if (isLimited && asked.plan.filter.empty() && asked.plan.sort.empty() && asked.plan.computed.empty() &&
        asked.levels.empty() && asked.summaries.empty())
        request.most = writing.limit;
    const auto begun = std::chrono::steady_clock::now();
    auto table = opened.source->load(request, cancel);
    if (!table) return table.error();
    state.loadMilliseconds =
        std::chrono::duration<double, std::milli>(std::chrono::steady_clock::now() - begun).count();
    state.now = zoneOf(opened.schema).localNow();
    opened.schema = withComputedFields((*table)->schema, opened.design);
    auto again = planned(opened, wishes);
    if (!again) return again.error();
    asked = std::move(*again);
    auto snapshot = Rowline().run(inputOf(asked, withSchema(**table, opened.schema), state), cancel);
    if (snapshot && !(*snapshot)->groupProblem.empty())
        return Error{ErrorCode::InvalidInput, (*snapshot)->groupProblem};
    return snapshot;
}

Result<void> write(const Snapshot& snapshot, const Reading& reading, const RowWriting& writing, const Cancel& cancel) {
    const auto& asked = reading.asked;
    RowWriting headed = writing;
    headed.plan = &asked.plan;
    auto written = snapshot.groups ? writeGroups(snapshot, *snapshot.groups, levelNames(asked, reading.opened.schema),
                                                 asked.summaries, asked.plan.columns, writing, toStdout, cancel)
                                   : writeRows(snapshot, asked.plan.columns, headed, toStdout, cancel);
    if (written && std::fflush(stdout) != 0)
        return Error{ErrorCode::Io, fmt::format("Writing the rows failed: {}.", std::strerror(errno))};
    return written;
}

}  // namespace

int rows(const QStringList& arguments) {
    QCommandLineParser parser;
    describe(parser);
    if (const auto code = parse(parser, "rows", arguments, 1)) return *code;
    const auto said = writingOf(parser);
    if (const int* code = std::get_if<int>(&said)) return *code;
    const RowWriting& writing = std::get<RowWriting>(said);
    if (parser.isSet("table") && parser.isSet("query"))
        return complain("--table and --query name two things to take the records from; give one of them."), kUsage;
    auto opened = open({parser.positionalArguments().first().toStdString(), parser.value("table").toStdString(),
                        parser.value("query").toStdString(), parser.value("source").toStdString(), readAsOf(parser),
                        parser.value("zone").toStdString()});
    if (!opened) return complain(withPlace(opened.error(), parser.value("query").toStdString())), kFailed;
    const Wishes wishes = wishesOf(parser);
    takeRelatedOf(*opened, wishes.columns, wishes.where, {wishes.sort, wishes.group}, wishes.summary);
    if (wishes.chooses)
        if (auto chosen = chooseColumns(opened->design, opened->schema, wishes.columns); !chosen)
            return complain(chosen.error().message), kUsage;
    auto asked = planned(*opened, wishes);
    if (!asked) return complain(asked.error().message), kUsage;
    for (const Finding& finding : opened->findings)
        if (finding.severity != Severity::Note) complain(finding.message);
    for (const Finding& finding : asked->plan.findings) complain(finding.message);
    ViewState state;
    state.parameters = parametersOf(opened->design);
    const TimeZone& zone = zoneOf(opened->schema);
    if (auto read = readParameters(parser.values("set"), opened->design, zone, state.parameters); !read)
        return complain(read.error().message), kUsage;

    Reading reading{*opened, wishes, std::move(*asked), std::move(state)};
    const Cancel cancel;
    auto snapshot = snapshotOf(reading, writing, parser.isSet("limit"), cancel);
    if (!snapshot) return complain(snapshot.error().message), kFailed;
    if (const auto& filter = (*snapshot)->filter; filter.failed != 0)
        complain(fmt::format("{} records were left out because a condition failed on them: {}.", filter.failed,
                             words(filter.failure)));
    if (auto written = write(**snapshot, reading, writing, cancel); !written)
        return complain(written.error().message), kFailed;
    complainOfMisfits(*(*snapshot)->table);
    if (parser.isSet("timings")) printTimings(**snapshot);
    return kDone;
}

}  // namespace jollyrow::commands
