// SPDX-License-Identifier: MIT
#include "core/exports/row_writer.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <nlohmann/json.hpp>

#include "core/design/cell_text.h"
#include "core/formats/text_format.h"

namespace jollyrow {
namespace {

constexpr std::size_t kFlushAt = 1 << 16;
constexpr std::int64_t kMeasured = 200;  // lines looked at for the column widths of text
constexpr std::size_t kWidest = 40;      // characters of a text column
using Sink = std::function<Result<void>(std::string_view)>;

std::size_t codePoints(std::string_view text) {
    return static_cast<std::size_t>(std::count_if(text.begin(), text.end(), [](char c) { return (c & 0xc0) != 0x80; }));
}

void appendDisplayed(std::string& out, const Snapshot& snapshot, SourceRow row, const PlannedColumn& column) {
    CellText cell;
    readCell(snapshot, row, column, cell);
    out += cell.text;
}

/// One line of text: control characters become spaces.
std::string oneLine(std::string text) {
    for (char& c : text) c = static_cast<unsigned char>(c) < 0x20 || c == 0x7f ? ' ' : c;
    return text;
}

void appendPadded(std::string& out, std::string text, std::size_t width, bool right) {
    std::size_t length = codePoints(text);
    if (length > width) {
        std::size_t at = 0, seen = 0;
        while (at < text.size() && seen < width - 1) {
            ++at;
            while (at < text.size() && (text[at] & 0xc0) == 0x80) ++at;
            ++seen;
        }
        text.resize(at);
        text += "…";
        length = width;
    }
    if (right) out.append(width - length, ' ');
    out += text;
    if (!right) out.append(width - length, ' ');
}

void appendCsvCell(std::string& out, std::string_view text) {
    if (text.find_first_of(",\"\r\n") == std::string_view::npos) {
        out += text;
        return;
    }
    out += '"';
    for (const char c : text) {
        if (c == '"') out += '"';
        out += c;
    }
    out += '"';
}

nlohmann::json jsonOf(const Value& value) {
    if (isEmpty(value)) return nullptr;
    if (const bool* v = std::get_if<bool>(&value)) return *v;
    if (const auto* v = std::get_if<std::int64_t>(&value)) return *v;
    if (const auto* v = std::get_if<double>(&value))
        return std::isfinite(*v) ? nlohmann::json(*v) : nlohmann::json(fmt::format("{}", *v));
    std::string text;
    appendPlain(text, value);
    return text;
}

class LineWriter {
  public:
    LineWriter(const Snapshot& snapshot, const std::vector<PlannedColumn>& columns)
        : snapshot_(snapshot), columns_(columns) {}

    void head(std::string& out, RowFormat format) {
        if (format == RowFormat::Jsonl) return;
        if (format == RowFormat::Text) measure();
        for (std::size_t i = 0; i < columns_.size(); ++i) {
            if (format == RowFormat::Csv) {
                out += i == 0 ? "" : ",";
                appendCsvCell(out, columns_[i].design.field);
            } else {
                out += i == 0 ? "" : "  ";
                appendPadded(out, columns_[i].design.heading, widths_[i], columns_[i].alignment == Alignment::Right);
            }
        }
        endLine(out, format);
    }

    void record(std::string& out, RowFormat format, SourceRow row) {
        switch (format) {
            case RowFormat::Text:
                for (std::size_t i = 0; i < columns_.size(); ++i) {
                    std::string cell;
                    appendDisplayed(cell, snapshot_, row, columns_[i]);
                    out += i == 0 ? "" : "  ";
                    appendPadded(out, oneLine(std::move(cell)), widths_[i], columns_[i].alignment == Alignment::Right);
                }
                break;
            case RowFormat::Csv:
                for (std::size_t i = 0; i < columns_.size(); ++i) {
                    std::string cell;
                    appendPlain(cell, snapshot_.value(row, columns_[i].field));
                    out += i == 0 ? "" : ",";
                    appendCsvCell(out, cell);
                }
                break;
            case RowFormat::Jsonl: {
                nlohmann::ordered_json values = nlohmann::ordered_json::object();
                for (const PlannedColumn& column : columns_)
                    values[column.design.field] = jsonOf(snapshot_.value(row, column.field));
                out += nlohmann::ordered_json{{"kind", "record"}, {"values", std::move(values)}}.dump(
                    -1, ' ', false, nlohmann::ordered_json::error_handler_t::replace);
                break;
            }
        }
        endLine(out, format);
    }

  private:
    void measure() {
        for (const PlannedColumn& column : columns_) {
            std::size_t width = codePoints(column.design.heading);
            for (std::int64_t line = 0; line < std::min(kMeasured, snapshot_.lineCount()); ++line) {
                std::string cell;
                appendDisplayed(cell, snapshot_, snapshot_.line(static_cast<ViewLine>(line)).row, column);
                width = std::max(width, std::min(codePoints(cell), kWidest));
            }
            widths_.push_back(std::max<std::size_t>(width, 1));
        }
    }
    static void endLine(std::string& out, RowFormat format) {
        if (format == RowFormat::Text)
            while (!out.empty() && out.back() == ' ') out.pop_back();
        out += format == RowFormat::Csv ? "\r\n" : "\n";
    }

    const Snapshot& snapshot_;
    const std::vector<PlannedColumn>& columns_;
    std::vector<std::size_t> widths_;
};

}  // namespace

std::optional<RowFormat> rowFormatFromName(std::string_view name) {
    if (name == "text") return RowFormat::Text;
    if (name == "csv") return RowFormat::Csv;
    if (name == "jsonl") return RowFormat::Jsonl;
    return std::nullopt;
}

Result<void> writeRows(const Snapshot& snapshot, const std::vector<PlannedColumn>& columns, const RowWriting& writing,
                       const Sink& sink, const Cancel& cancel) {
    LineWriter writer(snapshot, columns);
    std::string out;
    writer.head(out, writing.format);
    const std::int64_t lines = writing.limit < 0 ? snapshot.lineCount() : std::min(writing.limit, snapshot.lineCount());
    for (std::int64_t line = 0; line < lines; ++line) {
        writer.record(out, writing.format, snapshot.line(static_cast<ViewLine>(line)).row);
        if (out.size() < kFlushAt) continue;
        if (cancel.requested()) return Error{ErrorCode::Cancelled, "Writing was cancelled."};
        if (auto sent = sink(out); !sent) return sent;
        out.clear();
    }
    return out.empty() ? Result<void>() : sink(out);
}

}  // namespace jollyrow
