// SPDX-License-Identifier: MIT
#include "core/design/face_reader.h"

#include <charconv>
#include <cmath>
#include <limits>

#include "core/base/trimmed.h"

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

}  // namespace

FaceReader::FaceReader(const Snapshot& snapshot, std::shared_ptr<const PlannedFace> face)
    : face_(std::move(face)), table_(snapshot.table), edits_(snapshot.edits) {
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
    if (!part.design.bar.shares) return;
    for (double& number : out.numbers) number = sum > 0 && std::isfinite(sum) ? std::abs(number) / sum : 0;
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

std::string FaceReader::toolTip(SourceRow row, std::size_t part) const {
    const auto& message = face_->parts[part].toolTip;
    std::string text;
    if (message && !isPending_) message->appendMessage(text, [&](FieldIndex field) { return valueOf(row, field); });
    return text;
}

std::optional<std::vector<double>> numbersIn(std::string_view list) {
    constexpr std::size_t kMost = 10'000;
    constexpr double kGap = std::numeric_limits<double>::quiet_NaN();
    list = trimmed(list);
    if (!list.empty() && list.front() == '[') {
        if (list.back() != ']') return std::nullopt;
        list = trimmed(list.substr(1, list.size() - 2));
    }
    std::vector<double> numbers;
    if (list.empty()) return numbers;
    for (std::size_t start = 0; start <= list.size() && numbers.size() < kMost;) {
        const std::size_t comma = std::min(list.find(',', start), list.size());
        const std::string_view one = trimmed(list.substr(start, comma - start));
        double number = kGap;
        const auto [end, error] = std::from_chars(one.data(), one.data() + one.size(), number);
        const bool isGap = one == "null" || one == "NaN" || one.empty();
        if (!isGap && (error != std::errc() || end != one.data() + one.size())) return std::nullopt;
        numbers.push_back(isGap || !std::isfinite(number) ? kGap : number);
        start = comma + 1;
    }
    return numbers;
}

}  // namespace jollyrow
