// SPDX-License-Identifier: MIT
#include "core/exports/row_writer.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <nlohmann/json.hpp>

#include "core/design/cell_text.h"
#include "core/design/planned_banner.h"
#include "core/formats/text_format.h"
#include "core/rules/conversion.h"
#include "core/rules/utf8.h"

namespace jollyrow {
namespace {

constexpr std::size_t kFlushAt = 1 << 16;
constexpr std::int64_t kMeasured = 200;  // lines looked at for the column widths of text
constexpr std::size_t kWidest = 40;      // characters of a text column
using Sink = std::function<Result<void>(std::string_view)>;

/// One line of text: control characters become spaces.
std::string oneLine(std::string text) {
    for (char& c : text) c = static_cast<unsigned char>(c) < 0x20 || c == 0x7f ? ' ' : c;
    return text;
}

void appendPadded(std::string& out, std::string text, std::size_t width, bool right) {
    std::size_t length = codePointCount(text);
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
    // Whole numbers that every reader keeps exactly; other exact numbers as text.
    constexpr std::int64_t kMostWhole = std::int64_t{1} << 53;
    if (const auto* v = std::get_if<Decimal>(&value); v && v->scale == 0 && std::abs(v->mantissa) <= kMostWhole)
        return v->mantissa;
    std::string text;
    appendPlain(text, value);
    return text;
}

class LineWriter {
  public:
    LineWriter(const Snapshot& snapshot, const std::vector<PlannedColumn>& columns, const ViewPlan* plan = nullptr)
        : snapshot_(snapshot), columns_(columns) {
        if (plan && !plan->banners.empty()) banners_ = std::make_unique<BannerReader>(snapshot, *plan);
        for (const PlannedColumn& column : columns) readers_.push_back(std::make_unique<CellReader>(snapshot, column));
    }

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
                if (const auto caption = captionOf(row)) {
                    out += oneLine(*caption);
                    break;
                }
                for (std::size_t i = 0; i < columns_.size(); ++i) {
                    readers_[i]->read(row, cell_);
                    out += i == 0 ? "" : "  ";
                    appendPadded(out, oneLine(cell_.text), widths_[i], columns_[i].alignment == Alignment::Right);
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
                nlohmann::ordered_json line = {{"kind", "record"}};
                if (const auto caption = captionOf(row)) line["banner"] = *caption;
                line["values"] = std::move(values);
                out += line.dump(-1, ' ', false, nlohmann::ordered_json::error_handler_t::replace);
                break;
            }
        }
        endLine(out, format);
    }

  private:
    /// What a banner row says; nullopt for other records.
    std::optional<std::string> captionOf(SourceRow row) {
        const PlannedBanner* banner = banners_ ? banners_->of(row) : nullptr;
        if (!banner) return std::nullopt;
        std::string caption;
        banners_->appendCaption(row, *banner, caption);
        return caption;
    }
    CellText cell_;
    std::vector<std::unique_ptr<CellReader>> readers_;  ///< by column
    std::unique_ptr<BannerReader> banners_;             ///< null where there are none
    void measure() {
        for (std::size_t i = 0; i < columns_.size(); ++i) {
            std::size_t width = codePointCount(columns_[i].design.heading);
            for (std::int64_t line = 0; line < std::min(kMeasured, snapshot_.recordCount()); ++line) {
                readers_[i]->read(snapshot_.record(line), cell_);
                width = std::max(width, std::min(codePointCount(cell_.text), kWidest));
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
    LineWriter writer(snapshot, columns, writing.plan);
    std::string out;
    writer.head(out, writing.format);
    const std::int64_t lines =
        writing.limit < 0 ? snapshot.recordCount() : std::min(writing.limit, snapshot.recordCount());
    for (std::int64_t line = 0; line < lines; ++line) {
        writer.record(out, writing.format, snapshot.record(line));
        if (out.size() < kFlushAt) continue;
        if (cancel.requested()) return Error{ErrorCode::Cancelled, "Writing was cancelled."};
        if (auto sent = sink(out); !sent) return sent;
        out.clear();
    }
    return out.empty() ? Result<void>() : sink(out);
}

namespace {

/// For machines: instants in UTC, as records have them.
std::string plainOf(const RuleValue& value) {
    std::string out;
    if (const auto* instant = std::get_if<Instant>(&value))
        appendIsoInstant(out, instant->micros);
    else
        out = textOf(value);
    return out;
}

nlohmann::ordered_json jsonOf(const EvaluatedCell& cell) {
    if (isError(cell.state)) return {{"error", std::string(words(cell.state))}};
    if (cell.state == CellState::Empty) return nullptr;
    if (const bool* v = std::get_if<bool>(&cell.value)) return *v;
    if (const auto* v = std::get_if<std::int64_t>(&cell.value)) return *v;
    if (const auto* v = std::get_if<double>(&cell.value); v && std::isfinite(*v)) return *v;
    if (const auto* v = std::get_if<WideDecimal>(&cell.value); v && v->scale == 0) return jsonOf(narrowest(*v));
    return plainOf(cell.value);
}

/// `zone`: for people, on whose clocks; null for machines.
std::string textOfCell(const EvaluatedCell& cell, const TimeZone* zone) {
    if (isError(cell.state)) return "error: " + std::string(words(cell.state));
    if (cell.state == CellState::Empty) return {};
    return zone ? localTextOf(cell.value, *zone) : plainOf(cell.value);
}

class GroupWriter {
  public:
    GroupWriter(const Snapshot& snapshot, const GroupedRows& grouped, const std::vector<SummaryRule>& terms,
                const std::vector<PlannedColumn>& columns, const RowWriting& writing, const Sink& sink,
                const Cancel& cancel)
        : records_(snapshot, columns),
          grouped_(grouped),
          tree_(*grouped.tree),
          terms_(terms),
          zone_(zoneOf(snapshot.table->schema)),
          writing_(writing),
          sink_(sink),
          cancel_(cancel) {}

    Result<void> run(const std::vector<std::string>& keyNames) {
        if (writing_.format == RowFormat::Csv) {
            for (const std::string& name : keyNames) cell(name);
            cell("count");
            for (const SummaryRule& term : terms_) cell(term.name);
            out_ += "\r\n";
            fresh_ = true;
        } else if (writing_.limit != 0) {
            records_.head(out_, writing_.format);
        }
        const std::size_t end = tree_.levels() > 0 ? tree_.levelBegin[1] : 0;
        for (std::size_t node = 0; node < end; ++node)
            if (auto done = group(node); !done) return done;
        if (tree_.levels() == 0)
            if (auto done = recordsOf(0, static_cast<std::int64_t>(tree_.order->size())); !done) return done;
        total();
        return sink_(out_);
    }

  private:
    void cell(const std::string& text) {
        if (!std::exchange(fresh_, false)) out_ += ',';
        appendCsvCell(out_, text);
    }

    Result<void> group(std::size_t at) {
        const GroupNode& node = tree_.nodes[at];
        path_.resize(static_cast<std::size_t>(node.level));
        path_.push_back(tree_.key(node));
        const bool innermost = node.level + 1 == tree_.levels();
        if (writing_.format != RowFormat::Csv)
            line(at);
        else if (innermost)
            csvLine(node.count, [&](std::size_t k) { return grouped_.figure(k, at); });
        if (auto sent = flush(); !sent) return sent;
        if (innermost) return recordsOf(node.first, node.count);
        for (std::size_t child = node.firstChild; child < node.endChild; ++child)
            if (auto done = group(child); !done) return done;
        return {};
    }

    template <class Summary>
    void csvLine(std::int64_t count, const Summary& summary) {
        for (const EvaluatedCell& key : path_) cell(textOfCell(key, nullptr));
        cell(std::to_string(count));
        for (std::size_t k = 0; k < terms_.size(); ++k) cell(textOfCell(summary(k), nullptr));
        out_ += "\r\n";
        fresh_ = true;
    }

    void line(std::size_t at) {
        const GroupNode& node = tree_.nodes[at];
        const auto summary = [&](std::size_t k) { return grouped_.figure(k, at); };
        if (writing_.format == RowFormat::Jsonl) {
            nlohmann::ordered_json keys = nlohmann::ordered_json::array();
            for (const EvaluatedCell& key : path_) keys.push_back(jsonOf(key));
            return json({{"kind", "group"}, {"level", node.level}, {"keys", std::move(keys)}}, node.count, summary);
        }
        out_.append(2 * static_cast<std::size_t>(node.level), ' ');
        const EvaluatedCell& key = path_.back();
        out_ += key.state == CellState::Empty ? "(empty)" : oneLine(textOfCell(key, &zone_));
        figures(node.count, summary);
    }

    void total() {
        const auto summary = [&](std::size_t k) { return grouped_.total(k); };
        const auto count = static_cast<std::int64_t>(tree_.order->size());
        if (writing_.format == RowFormat::Jsonl) return json({{"kind", "total"}}, count, summary);
        // Beside groups it would be counted with them by whoever reads the file.
        if (writing_.format == RowFormat::Csv) return tree_.levels() == 0 ? csvLine(count, summary) : void();
        out_ += "total";
        figures(count, summary);
    }

    template <class Summary>
    void json(nlohmann::ordered_json object, std::int64_t count, const Summary& summary) {
        object["count"] = count;
        object["summaries"] = nlohmann::ordered_json::object();
        for (std::size_t k = 0; k < terms_.size(); ++k) object["summaries"][terms_[k].name] = jsonOf(summary(k));
        out_ += object.dump(-1, ' ', false, nlohmann::ordered_json::error_handler_t::replace) + "\n";
    }
    template <class Summary>
    void figures(std::int64_t count, const Summary& summary) {
        out_ += fmt::format("  ({})", count);
        for (std::size_t k = 0; k < terms_.size(); ++k)
            out_ += fmt::format("  {} {}", terms_[k].name, oneLine(textOfCell(summary(k), &zone_)));
        out_ += '\n';
    }

    Result<void> recordsOf(std::int64_t first, std::int64_t count) {
        if (writing_.format == RowFormat::Csv) return {};
        for (std::int64_t n = first; n < first + count && (writing_.limit < 0 || written_ < writing_.limit); ++n) {
            records_.record(out_, writing_.format, static_cast<SourceRow>((*tree_.order)[static_cast<std::size_t>(n)]));
            ++written_;
            if (auto sent = flush(); !sent) return sent;
        }
        return {};
    }

    Result<void> flush() {
        if (out_.size() < kFlushAt) return {};
        if (cancel_.requested()) return Error{ErrorCode::Cancelled, "Writing was cancelled."};
        auto sent = sink_(out_);
        out_.clear();
        return sent;
    }

    LineWriter records_;
    const GroupedRows& grouped_;
    const GroupTree& tree_;
    const std::vector<SummaryRule>& terms_;
    const TimeZone& zone_;
    const RowWriting& writing_;
    const Sink& sink_;
    const Cancel& cancel_;
    std::vector<EvaluatedCell> path_;
    std::string out_;
    std::int64_t written_ = 0;
    bool fresh_ = true;  ///< no cell in this line of CSV yet
};

}  // namespace

Result<void> writeGroups(const Snapshot& snapshot, const GroupedRows& grouped, const std::vector<std::string>& keyNames,
                         const std::vector<SummaryRule>& terms, const std::vector<PlannedColumn>& columns,
                         const RowWriting& writing, const Sink& sink, const Cancel& cancel) {
    return GroupWriter(snapshot, grouped, terms, columns, writing, sink, cancel).run(keyNames);
}

}  // namespace jollyrow
