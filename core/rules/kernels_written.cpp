// SPDX-License-Identifier: MIT
// TO_CHAR, TO_DATE, TO_TIMESTAMP, TO_NUMBER and FORMAT over a batch. Covered by tests/rules/written_oracle_test.cpp.
#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <optional>
#include <string>
#include <utility>

#include "core/columns/civil.h"
#include "core/rules/conversion.h"
#include "core/rules/kernels.h"
#include "core/rules/moment_template.h"
#include "core/rules/number_template.h"
#include "core/rules/utf8.h"

namespace jollyrow {
namespace {

/// The last pattern that was read; most are the same for all records.
template <class Template>
class Patterns {
  public:
    explicit Patterns(std::optional<Template> (*reader)(std::string_view)) : read_(reader) {}
    const Template* get(std::string_view text) {
        if (!isRead_ || text != text_) {
            text_ = text;
            pattern_ = read_(text);
            isRead_ = true;
        }
        return pattern_ ? &*pattern_ : nullptr;
    }

  private:
    std::optional<Template> (*read_)(std::string_view);
    std::string text_;
    std::optional<Template> pattern_;
    bool isRead_ = false;
};

std::string_view textAt(const Vector& v, std::size_t i) { return v.texts[v.at(i)]; }

template <class Template, class Make>
void writeEach(Patterns<Template> patterns, Operands in, std::size_t n, Vector& out, const Make& make) {
    std::string_view* result = out.makeTexts();
    for (std::size_t i = 0; i < n; ++i) {
        result[i] = {};
        if (out.state(i) != CellState::Filled) continue;
        const Template* pattern = patterns.get(textAt(*in[1], i));
        const std::optional<std::string> text = pattern ? make(*pattern, i) : std::nullopt;
        if (!text)
            setState(out, n, i, CellState::BadPattern);
        else if (!out.hasRoomFor(text->size()))
            setState(out, n, i, CellState::TextTooLong);
        else
            result[i] = out.keep(*text);
    }
}

MomentParts partsOf(const Vector& v, std::size_t i, const TimeZone& zone) {
    constexpr std::int64_t kMicros = 1'000'000;
    if (v.kind == RuleKind::Interval) {
        const Interval span = v.intervals[v.at(i)];
        MomentParts parts;
        parts.isSpan = true;
        parts.year = span.months / 12;
        parts.month = span.months % 12;
        parts.day = span.days;
        parts.hour = span.micros / (3600 * kMicros);
        parts.minute = static_cast<int>(span.micros / (60 * kMicros) % 60);
        parts.second = static_cast<int>(span.micros / kMicros % 60);
        parts.micros = static_cast<int>(span.micros % kMicros);
        return parts;
    }
    const std::int64_t stored = v.integers[v.at(i)];
    if (v.kind != RuleKind::Instant) return partsOfTimestamp(stored);
    MomentParts parts = partsOfTimestamp(zone.toLocal(stored));
    parts.hasZone = true;
    parts.offset = zone.offsetAt(stored) / kMicros;
    return parts;
}

std::optional<WideDecimal> exactAt(const Vector& v, std::size_t i) {
    return v.kind == RuleKind::Integer ? WideDecimal{v.integers[v.at(i)], 0} : v.decimal(i);
}

/// A double has 15 digits: no more of them are shown. It is rounded as it is, in binary, as C does it.
std::optional<std::string> writeReal(NumberTemplate pattern, double value) {
    if (!std::isfinite(value)) return std::nullopt;
    constexpr int kDigits = 15;
    if (pattern.isScientific) {
        const auto shown = parseWideDecimal(fmt::format("{:.{}e}", value, pattern.behind));
        return shown ? write(pattern, *shown) : std::nullopt;
    }
    value *= std::pow(10.0, pattern.shifted);
    pattern.before += std::exchange(pattern.shifted, 0);
    const int before = static_cast<int>(fmt::format("{:.0f}", std::abs(value)).size());
    pattern.behind = std::clamp(kDigits - before, 0, pattern.behind);
    const auto shown = parseWideDecimal(fmt::format("{:.{}f}", value, pattern.isRoman ? 0 : pattern.behind));
    return shown ? write(pattern, *shown, std::signbit(value)) : std::nullopt;
}

/// %s a value, %I a name and %L a literal as SQL has them; %3$s picks one, %-10s pads; %% is a percent sign.
class Formatter {
  public:
    Formatter(Operands in, std::size_t i) : in_(in), i_(i), pattern_(textAt(*in[0], i)) {}

    std::optional<std::string> run() {
        while (at_ < pattern_.size()) {
            const std::size_t percent = pattern_.find('%', at_);
            out_.append(pattern_.substr(at_, percent - at_));
            if (percent == std::string_view::npos) break;
            at_ = percent + 1;
            if (!item() || out_.size() > kMostTextBytes) return std::nullopt;
        }
        return std::move(out_);
    }

  private:
    std::optional<std::size_t> number() {
        std::size_t value = 0;
        const std::size_t from = at_;
        for (; at_ < pattern_.size() && pattern_[at_] >= '0' && pattern_[at_] <= '9'; ++at_) {
            value = value * 10 + static_cast<std::size_t>(pattern_[at_] - '0');
            if (value > kMostTextBytes) return std::nullopt;
        }
        return at_ == from ? std::nullopt : std::optional(value);
    }
    bool item() {
        if (at_ < pattern_.size() && pattern_[at_] == '%') {
            out_ += '%';
            ++at_;
            return true;
        }
        const std::size_t from = at_;
        std::optional<std::size_t> which = number();
        if (which && at_ < pattern_.size() && pattern_[at_] == '$') {
            ++at_;
        } else {
            which.reset();
            at_ = from;
        }
        bool isLeft = false;
        for (; at_ < pattern_.size() && pattern_[at_] == '-'; ++at_) isLeft = true;
        std::size_t width = number().value_or(0);
        if (width == 0 && at_ < pattern_.size() && pattern_[at_] == '*') {
            const auto given = givenWidth();
            constexpr auto kMost = static_cast<std::int64_t>(kMostTextBytes);
            if (!given || *given > kMost || *given < -kMost) return false;
            isLeft = isLeft || *given < 0;
            width = static_cast<std::size_t>(*given < 0 ? -*given : *given);
        }
        if (at_ >= pattern_.size() || width > kMostTextBytes) return false;
        const char kind = pattern_[at_++];
        if (which) next_ = *which;
        if (next_ < 1 || next_ >= in_.size()) return false;
        const Vector& value = *in_[next_++];
        const bool isEmpty = value.state(i_) != CellState::Filled;
        if (kind != 's' && kind != 'I' && kind != 'L') return false;
        if (isEmpty && kind == 'I') return false;
        const std::string_view text = isEmpty ? std::string_view() : textAt(value, i_);
        const std::string written = kind == 's'   ? std::string(text)
                                    : kind == 'I' ? name(text)
                                    : isEmpty     ? "NULL"
                                                  : literal(text);
        const std::size_t length = codePointCount(written);
        const std::string padding(width > length ? width - length : 0, ' ');
        out_ += isLeft ? written + padding : padding + written;
        return true;
    }
    /// * or *n$: the width is an argument; an empty one is none.
    std::optional<std::int64_t> givenWidth() {
        const std::size_t from = ++at_;
        const auto which = number();
        const bool isPicked = which && at_ < pattern_.size() && pattern_[at_] == '$';
        at_ = isPicked ? at_ + 1 : from;
        if (isPicked) next_ = *which;
        if (next_ < 1 || next_ >= in_.size()) return std::nullopt;
        const Vector& value = *in_[next_++];
        return value.state(i_) == CellState::Filled ? integerFromText(textAt(value, i_))
                                                    : std::optional<std::int64_t>(0);
    }
    static std::string name(std::string_view text) {
        bool isPlain = !text.empty() && !(text[0] >= '0' && text[0] <= '9');
        for (const char c : text) isPlain = isPlain && ((c >= 'a' && c <= 'z') || (c >= '0' && c <= '9') || c == '_');
        if (isPlain) return std::string(text);
        std::string out = "\"";
        for (const char c : text) out.append(c == '"' ? 2 : 1, c);
        return out + '"';
    }
    static std::string literal(std::string_view text) {
        const bool hasBackslash = text.find('\\') != std::string_view::npos;
        std::string out = hasBackslash ? "E'" : "'";
        for (const char c : text) out.append(c == '\'' || c == '\\' ? 2 : 1, c);
        return out + '\'';
    }

    Operands in_;
    std::size_t i_;
    std::string_view pattern_;
    std::size_t at_ = 0, next_ = 1;
    std::string out_;
};

/// Empty values are written as nothing; only an empty pattern makes the result empty.
void runFormat(Operands in, std::size_t n, Vector& out) {
    std::string_view* result = out.makeTexts();
    std::uint8_t* states = out.makeStates();
    for (std::size_t i = 0; i < n; ++i) {
        CellState state = in[0]->state(i);
        for (const Vector* v : in)
            if (isError(v->state(i)) && !isError(state)) state = v->state(i);
        result[i] = {};
        if (state == CellState::Filled) {
            const auto text = Formatter(in, i).run();
            state = !text ? CellState::BadPattern : out.hasRoomFor(text->size()) ? state : CellState::TextTooLong;
            if (state == CellState::Filled) result[i] = out.keep(*text);
        }
        states[i] = static_cast<std::uint8_t>(state);
    }
}

void readMoments(Op op, Operands in, const TimeZone& zone, std::size_t n, Vector& out) {
    Patterns<MomentTemplate> patterns(momentTemplate);
    std::int64_t* result = out.makeIntegers();
    for (std::size_t i = 0; i < n; ++i) {
        result[i] = 0;
        if (out.state(i) != CellState::Filled) continue;
        const MomentTemplate* pattern = patterns.get(textAt(*in[1], i));
        const auto moment = pattern ? read(*pattern, textAt(*in[0], i)) : std::nullopt;
        if (!moment)
            setState(out, n, i, pattern ? CellState::NoSuchDate : CellState::BadPattern);
        else if (op == Op::TextToDate)
            result[i] = dayOf(moment->local);
        else
            result[i] = moment->offset ? moment->local - *moment->offset : zone.toInstant(moment->local);
    }
}

void readNumbers(Operands in, std::size_t n, Vector& out) {
    Patterns<NumberTemplate> patterns(numberTemplate);
    out.wide = true;
    WideDecimal* result = out.makeWides();
    for (std::size_t i = 0; i < n; ++i) {
        result[i] = {};
        if (out.state(i) != CellState::Filled) continue;
        const NumberTemplate* pattern = patterns.get(textAt(*in[1], i));
        const auto value = pattern ? readNumber(*pattern, textAt(*in[0], i)) : std::nullopt;
        if (value)
            result[i] = *value;
        else
            setState(out, n, i, pattern ? CellState::NotConvertible : CellState::BadPattern);
    }
}

}  // namespace

void runWritten(Op op, Operands in, const TimeZone& zone, std::size_t n, Vector& out) {
    out.forget();
    if (op == Op::Format) return runFormat(in, n, out);
    joinStates(in, n, out);
    switch (op) {
        case Op::MomentToText:
            return writeEach(
                Patterns<MomentTemplate>(momentTemplate), in, n, out,
                [&](const MomentTemplate& pattern, std::size_t i) { return write(pattern, partsOf(*in[0], i, zone)); });
        case Op::NumberToText:
            return writeEach(Patterns<NumberTemplate>(numberTemplate), in, n, out,
                             [&](const NumberTemplate& pattern, std::size_t i) -> std::optional<std::string> {
                                 const Vector& v = *in[0];
                                 if (v.kind == RuleKind::Real) return writeReal(pattern, v.reals[v.at(i)]);
                                 const auto value = exactAt(v, i);
                                 return value ? write(pattern, *value) : std::nullopt;
                             });
        case Op::TextToNumber: return readNumbers(in, n, out);
        default: return readMoments(op, in, zone, n, out);
    }
}

}  // namespace jollyrow
