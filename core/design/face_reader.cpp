// SPDX-License-Identifier: MIT
#include "core/design/face_reader.h"

#include <fmt/format.h>

#include <cmath>
#include <limits>

#include "core/formats/text_format.h"

namespace jollyrow {

std::unique_ptr<RecordCondition> RecordCondition::make(const std::shared_ptr<const Program>& program,
                                                       const Snapshot& snapshot) {
    if (!program) return nullptr;
    EvaluationInput input;
    input.table = snapshot.table;
    input.edits = snapshot.edits && !snapshot.edits->empty() ? snapshot.edits : nullptr;
    input.parameters = snapshot.situation.parameters;
    input.today = snapshot.situation.today;
    input.now = snapshot.situation.now;
    input.forFew = true;
    auto evaluation = Evaluation::prepare(program, input, Cancel());
    return evaluation ? std::unique_ptr<RecordCondition>(new RecordCondition(std::move(*evaluation))) : nullptr;
}

bool RecordCondition::holds(SourceRow row) {
    const EvaluatedCell cell = cellOf(runner_.run(raw(row), 1), 0);
    const bool* holds = cell.state == CellState::Filled ? std::get_if<bool>(&cell.value) : nullptr;
    return holds && *holds;
}

namespace {

/// The longer of the texts that the ends of a bar's numbers have: all others have room where it has.
std::string longestOf(const PlannedPart& part, const Extent& extent) {
    std::string longest;
    if (!part.formatter || part.formatter->isMessage()) return longest;
    const TextFormat& format = part.formatter->format();
    for (const double end : {extent.low, extent.high}) {
        std::string text;
        const double scaled = end * std::pow(10.0, format.scale);
        const bool isWhole = std::abs(scaled) < 9e18;
        if (format.type == Type::Real || !isWhole)
            part.formatter->append(text, Value(end));
        else if (format.type == Type::Integer)
            part.formatter->append(text, Value(static_cast<std::int64_t>(end)));
        else
            part.formatter->append(text, Value(Decimal{static_cast<std::int64_t>(std::llround(scaled)),
                                                       static_cast<std::int8_t>(format.scale)}));
        if (text.size() > longest.size()) longest = text;
    }
    return longest;
}

/// RFC 3986, 2.1: all but letters, figures and - . _ ~.
std::string percentEncoded(std::string_view text) {
    std::string out;
    for (const char c : text) {
        const auto byte = static_cast<unsigned char>(c);
        const bool isKept = (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z') || (c >= '0' && c <= '9') || c == '-' ||
                            c == '.' || c == '_' || c == '~';
        isKept ? void(out += c) : void(out += fmt::format("%{:02X}", byte));
    }
    return out;
}

/// Parts of 1, by their sizes; gaps stay gaps.
void makeShares(std::vector<double>& numbers, double sum) {
    for (double& number : numbers)
        if (!std::isnan(number)) number = sum > 0 && std::isfinite(sum) ? std::abs(number) / sum : 0;
}

}  // namespace

FaceReader::FaceReader(const Snapshot& snapshot, std::shared_ptr<const PlannedFace> face)
    : face_(std::move(face)), table_(snapshot.table), edits_(snapshot.edits), recorded_(snapshot.recorded) {
    const auto made = [&](const std::shared_ptr<const Program>& program) {
        auto condition = RecordCondition::make(program, snapshot);
        isPending_ = isPending_ || (program && !condition);
        return condition;
    };
    for (const FieldIndex field : face_->fields)
        if (raw(field) >= table_->columns.size() || !table_->column(field)) isPending_ = true;
    for (const PlannedPart& part : face_->parts) {
        shownWhen_.push_back(isPending_ ? nullptr : made(part.shownWhen));
        auto& rules = rules_.emplace_back();
        for (const auto& rule : part.rules) rules.push_back(isPending_ ? nullptr : made(rule));
        const Extent found = part.extent ? snapshot.extentOf(*part.extent) : Extent{};
        const BarDesign& bar = part.design.bar;
        ends_.push_back(bar.shares ? Extent{0, 1} : bar.ends == BarEnds::Fixed ? Extent{bar.from, bar.to} : found);
        longest_.push_back(part.extent ? longestOf(part, found) : std::string());
    }
}

FaceReader::~FaceReader() = default;

void FaceReader::read(SourceRow row, FaceContent& out) {
    out.row = row;
    out.isPending = isPending_;
    out.parts.resize(face_->parts.size());
    for (PartContent& part : out.parts) part.isShown = false;
    if (!isPending_) readPart(row, 0, out);
}

/// The part and those within it; the index behind them.
std::size_t FaceReader::readPart(SourceRow row, std::size_t index, FaceContent& out) {
    const PlannedPart& part = face_->parts[index];
    PartContent& content = out.parts[index];
    content.text.clear();
    content.numbers.clear();
    content.isMisfit = false;
    content.rule = -1;
    if (shownWhen_[index] && !shownWhen_[index]->holds(row)) return part.end;
    for (std::size_t i = 0; i < rules_[index].size() && content.rule < 0; ++i)
        if (!rules_[index][i] || rules_[index][i]->holds(row)) content.rule = static_cast<int>(i);
    content.ends = ends_[index];
    content.longest = longest_[index];
    if (!holdsParts(part.design.kind)) {
        readContent(row, part, content);
        return part.end;
    }
    // What holds parts is shown when one of them is; room alone is nothing.
    for (std::size_t inner = index + 1; inner < part.end;) {
        const std::size_t next = readPart(row, inner, out);
        if (out.parts[inner].isShown && face_->parts[inner].design.kind != FacePartKind::Spacer)
            out.parts[index].isShown = true;
        inner = next;
    }
    return part.end;
}

Value FaceReader::valueOf(SourceRow row, FieldIndex field) const {
    if (const CellEdit* edit = edits_ ? edits_->find(row, field) : nullptr) return edit->value;
    const Column* column = table_->column(field);
    if (const auto misfit = column->misfit(row)) return Unfit{std::string(*misfit)};
    return column->isEmpty(row) ? Value(Empty{}) : column->value(row);
}

void FaceReader::readContent(SourceRow row, const PlannedPart& part, PartContent& out) const {
    const FacePartKind kind = part.design.kind;
    if (kind == FacePartKind::Spacer) {
        out.isShown = true;
        return;
    }
    if (kind == FacePartKind::Mark) {
        out.isShown = out.rule >= 0;
        if (out.isShown) out.text = part.design.rules[static_cast<std::size_t>(out.rule)].words;
        return;
    }
    if (part.formatter && part.formatter->isMessage()) {
        part.formatter->appendMessage(out.text, [&](FieldIndex field) { return valueOf(row, field); });
        out.isShown = !out.text.empty();
        return;
    }
    if (part.field) {
        // An edited look-up shows the label that came with the choice until its record is read again.
        const std::string& name = part.design.field;
        const auto link = name.empty() ? std::optional(face_->own) : table_->schema.find(name);
        const CellEdit* chosen = edits_ && link && link != part.field ? edits_->find(row, *link) : nullptr;
        if (chosen && (chosen->state != EditState::Saved || !edits_->find(row, *part.field))) {
            out.text = chosen->label;
            if (out.text.empty()) appendDisplay(out.text, chosen->value, {.zone = table_->schema.zone});
            out.isShown = !out.text.empty();
            return;
        }
        const Value value = valueOf(row, *part.field);
        if (const auto* misfit = std::get_if<Unfit>(&value)) {
            out.isMisfit = out.isShown = true;
            out.text = misfit->text;
            return;
        }
        if (part.formatter) part.formatter->append(out.text, value);
        out.isShown = !out.text.empty();
    }
    if (kind == FacePartKind::Bar || kind == FacePartKind::Trend || kind == FacePartKind::Rating)
        readNumbers(row, part, out);
}

void FaceReader::readNumbers(SourceRow row, const PlannedPart& part, PartContent& out) const {
    if (part.isRecorded) {
        if (recorded_) out.numbers = recorded_->before(row, *part.field);
        out.numbers.push_back(numberIn(*table_, edits_.get(), row, *part.field));
        return;
    }
    if (part.design.kind == FacePartKind::Trend) {
        auto numbers = numbersIn(out.text);
        out.isMisfit = out.isShown && !numbers;
        if (numbers) out.numbers = std::move(*numbers);
        out.isShown = out.isMisfit || !out.numbers.empty();
        if (!out.isMisfit) out.text.clear();
        return;
    }
    if (part.design.kind == FacePartKind::Rating) {
        out.numbers.push_back(numberOf(valueOf(row, *part.field)));
        out.isShown = !std::isnan(out.numbers.front());
        return;
    }
    if (part.isList) return readListed(row, part, out);
    double sum = 0;
    bool any = false;
    for (const FieldIndex field : part.fields) {
        out.numbers.push_back(numberIn(*table_, edits_.get(), row, field));
        if (const std::size_t at = out.numbers.size() - 1; at < part.formatters.size()) {
            if (at > 0) out.text += " + ";
            const std::size_t start = out.text.size();
            const Value value = valueOf(row, field);
            // A bar without it would show another sum.
            out.isMisfit = out.isMisfit || std::holds_alternative<Unfit>(value);
            part.formatters[at]->append(out.text, value);
            if (out.text.size() == start) out.text += "–";
        }
        if (std::isnan(out.numbers.back())) continue;
        any = true;
        sum += std::abs(out.numbers.back());
    }
    out.isShown = any || out.isMisfit;
    if (part.design.bar.shares) makeShares(out.numbers, sum);
}

/// A bar stacked from a list of numbers.
void FaceReader::readListed(SourceRow row, const PlannedPart& part, PartContent& out) const {
    const Value value = valueOf(row, part.fields.front());
    const auto* list = std::get_if<std::string>(&value);
    auto numbers = list ? numbersIn(*list) : std::nullopt;
    out.isMisfit = !isEmpty(value) && !numbers;
    out.isShown = out.isMisfit || (numbers && !numbers->empty());
    if (!numbers) return;
    out.numbers = std::move(*numbers);
    double sum = 0;
    for (const double number : out.numbers) sum += std::isnan(number) ? 0 : std::abs(number);
    if (part.design.bar.shares) makeShares(out.numbers, sum);
}

void FaceReader::appendText(const FaceContent& content, std::string& out) const {
    const std::size_t start = out.size();
    for (std::size_t i = 0; i < content.parts.size(); ++i) {
        const PartContent& part = content.parts[i];
        const FacePartKind kind = face_->parts[i].design.kind;
        if (!part.isShown) {
            i = std::max(i, face_->parts[i].end - 1);  // nothing within it is
            continue;
        }
        if (part.text.empty() || holdsParts(kind) || kind == FacePartKind::Button) continue;
        if (out.size() > start) out += ' ';
        out += part.text;
    }
}

std::string FaceReader::said(SourceRow row, const std::shared_ptr<const Formatter>& message) const {
    std::string text;
    if (message && !isPending_) message->appendMessage(text, [&](FieldIndex field) { return valueOf(row, field); });
    return text;
}

std::string FaceReader::toolTip(SourceRow row, std::size_t part) const { return said(row, face_->parts[part].toolTip); }

std::string FaceReader::address(SourceRow row, std::size_t part) const {
    const PlannedPart& planned = face_->parts[part];
    if (!planned.opens || isPending_) return {};
    // One field alone is an address by itself; in all others values are parts of one, and must not change what it
    // means.
    const std::string& pattern = planned.design.opens;
    const bool isWhole = pattern.starts_with('{') && pattern.find('}') == pattern.size() - 1;
    std::string text;
    planned.opens->appendMessage(text, [&](FieldIndex field) -> Value {
        Value value = valueOf(row, field);
        if (isWhole || isEmpty(value)) return value;
        std::string plain;
        appendPlain(plain, value);
        return Value(percentEncoded(plain));
    });
    return text;
}

std::string FaceReader::stackedText(SourceRow row, std::size_t part, std::size_t index) const {
    const PlannedPart& planned = face_->parts[part];
    PartContent content;
    readContent(row, planned, content);
    std::string text;
    if (planned.isList) {
        text = fmt::format("{}, {} of {}: ", planned.names.front(), index + 1, content.numbers.size());
        const Value list = valueOf(row, planned.fields.front());
        const auto* written = std::get_if<std::string>(&list);
        const auto numbers = written ? numbersIn(*written) : std::nullopt;
        return numbers && index < numbers->size() ? text + fmt::format("{:.15g}", (*numbers)[index]) : std::string();
    }
    text = planned.names[index] + ": ";
    const auto& formatter = planned.formatters.empty() ? planned.formatter : planned.formatters[index];
    const std::size_t start = text.size();
    if (formatter) formatter->append(text, valueOf(row, planned.fields[index]));
    if (text.size() == start) text += "–";
    if (planned.design.bar.shares && index < content.numbers.size() && std::isfinite(content.numbers[index]))
        text += fmt::format(" ({:.1f} %)", content.numbers[index] * 100);
    return text;
}

}  // namespace jollyrow
