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
#include "core/design/plan.h"
#include "core/exports/row_writer.h"
#include "core/rows/rowline.h"
#include "core/rules/sort_list.h"
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

/// Underlines the place of an error in a text of one line.
std::string withPlace(const Error& error, const std::string& text) {
    if (!error.where) return error.message;
    const std::size_t at = std::min(error.where->offset, text.size());
    return fmt::format("{}\n  {}\n  {}{}", error.message, text, std::string(at, ' '),
                       std::string(std::max<std::size_t>(1, error.where->length), '^'));
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
        if (const ColumnDesign* existing = design.column(field)) column = *existing;
        column.field = field;
        if (column.heading.empty()) column.heading = field;
        column.shown = true;
        chosen.push_back(std::move(column));
    }
    design.columns = std::move(chosen);
    return {};
}

void printTimings(const Snapshot& snapshot) {
    const nlohmann::ordered_json timings = {{"rows_in", snapshot.source.rowsIn},
                                            {"rows_out", snapshot.lineCount()},
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
    parser.addOptions({{"table", "The table or view, when WHAT is a database.", "T"},
                       {"query", "A SELECT to take the records from instead.", "SELECT"},
                       {"source", "A database to use instead of the design's.", "FILE"},
                       {"columns", "Only these columns, in this order.", "a,b,…"},
                       {"sort", "A SQL sort list, e.g. \"due_on DESC NULLS LAST, number\".", "LIST"},
                       {"limit", "At most N lines.", "N"},
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
    if (parser.isSet("columns") && !opened->schema.isView) {
        Binding wider = bindingFor(opened->design, opened->schema);
        for (const QString& given : parser.value("columns").split(','))
            if (given.contains('.')) wider.related.push_back(given.trimmed().toStdString());
        if (auto schema = opened->source->schema(wider)) opened->schema = std::move(*schema);
    }
    if (parser.isSet("columns"))
        if (auto chosen = chooseColumns(opened->design, opened->schema, parser.value("columns").split(',')); !chosen)
            return complain(chosen.error().message), kUsage;
    ViewPlan plan = planOf(opened->design, opened->schema);
    for (const Finding& finding : plan.findings) complain(finding.message);
    if (parser.isSet("sort")) {
        auto keys = parseSortList(parser.value("sort").toStdString(), opened->schema);
        if (!keys) return complain("--sort: " + withPlace(keys.error(), parser.value("sort").toStdString())), kUsage;
        plan.sort = *keys;
    }

    LoadRequest request;
    request.binding = bindingFor(opened->design, opened->schema);
    // Only what is printed or sorted by is read.
    request.wanted.assign(opened->schema.fields.size(), false);
    addFieldsRead(plan, request.wanted);
    const Cancel cancel;
    const auto begun = std::chrono::steady_clock::now();
    auto table = opened->source->load(request, cancel);
    if (!table) return complain(table.error().message), kFailed;
    const double loadMs = std::chrono::duration<double, std::milli>(std::chrono::steady_clock::now() - begun).count();
    Rowline rowline;
    auto snapshot = rowline.run({*table, nullptr, plan.sort, loadMs, 1}, cancel);
    if (!snapshot) return complain(snapshot.error().message), kFailed;
    if (auto written = writeRows(**snapshot, plan.columns, writing, toStdout, cancel); !written)
        return complain(written.error().message), kFailed;
    if (std::fflush(stdout) != 0)
        return complain(fmt::format("Writing the rows failed: {}.", std::strerror(errno))), kFailed;
    if (const std::size_t misfits = (*table)->misfitCount(); misfits != 0)
        complain(fmt::format("{} values do not fit their column's type and were taken as empty.", misfits));
    if (parser.isSet("timings")) printTimings(**snapshot);
    return kDone;
}

}  // namespace jollyrow::commands
