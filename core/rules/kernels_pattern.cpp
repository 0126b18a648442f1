// SPDX-License-Identifier: MIT
// Regular expressions over a batch. Places count code points, as everywhere in the language. Covered by
// tests/rules/written_oracle_test.cpp.
#include <optional>

#include "core/rules/kernels.h"
#include "core/rules/regex.h"
#include "core/rules/utf8.h"

namespace jollyrow {
namespace {

struct Match {
    CellState state = CellState::Empty;  ///< Filled: found; Empty: not
    RegexSpan span = {};
};

class PatternRow {
  public:
    PatternRow(Operands in, std::size_t i, Vector& out) : in_(in), i_(i), out_(out) {}

    std::string_view text(std::size_t k) const { return in_[k]->texts[in_[k]->at(i_)]; }
    std::int64_t number(std::size_t k) const { return in_[k]->integers[in_[k]->at(i_)]; }

    /// Makes the pattern ready over the row's text.
    CellState prepare(std::string_view pattern, std::string_view flags, bool isSimilar, bool takesAll = false) {
        if (!out_.regex) out_.regex = std::make_shared<RegexCache>();
        regex_ = out_.regex->get(pattern, flags, isSimilar);
        // Flag g, for "all", says something of a replacement only.
        if (!regex_ || (regex_->isGlobal() && !takesAll)) return CellState::BadPattern;
        if (out_.regex->isSpent()) return CellState::PatternTooSlow;
        regex_->setText(text(0));
        return CellState::Filled;
    }
    Regex& regex() const { return *regex_; }

    /// The n-th match from a place on, 1 being the first.
    Match find(std::int64_t start, std::int64_t n) {
        if (start < 1 || n < 1) return {CellState::NotDefined};
        std::optional<std::size_t> from = codePointOffset(text(0), static_cast<std::size_t>(start) - 1);
        if (start > 1 && static_cast<std::size_t>(start) - 1 > codePointCount(text(0))) return {};
        for (std::int64_t i = 1; from; ++i) {
            const Match match = next(*from);
            if (match.state != CellState::Filled || i == n) return match;
            from = behind(match.span);
        }
        return {};
    }
    Match next(std::size_t from) {
        switch (regex_->find(from)) {
            case Regex::Outcome::Found: return {CellState::Filled, regex_->group(0)};
            case Regex::Outcome::NotFound: return {};
            case Regex::Outcome::TooSlow: break;
        }
        out_.regex->countSlow();
        return {CellState::PatternTooSlow};
    }
    /// Where the search goes on behind a match; one that is empty is stepped over.
    std::optional<std::size_t> behind(const RegexSpan& span) const {
        const std::string_view all = text(0);
        if (span.begin != span.end) return span.end;
        if (span.end >= all.size()) return std::nullopt;
        return span.end + codePointBytes(all, span.end);
    }
    /// The group that is asked for; where none is stated the first there is.
    Match part(std::int64_t group) const {
        if (group < 0 && group != kUnstated) return {CellState::NotDefined};
        const std::int64_t wanted = group >= 0 ? group : regex_->groups() > 0 ? 1 : 0;
        if (wanted > regex_->groups()) return {};
        const RegexSpan span = regex_->group(static_cast<int>(wanted));
        return {span.isSet ? CellState::Filled : CellState::Empty, span};
    }

  private:
    Operands in_;
    std::size_t i_;
    Vector& out_;
    Regex* regex_ = nullptr;
};

/// For each record that has all operands: f(row) gives its state.
template <class F>
void eachRow(Operands in, std::size_t n, Vector& out, const F& f) {
    for (std::size_t i = 0; i < n; ++i) {
        if (out.states && out.states[i] != 0) continue;
        const CellState state = f(PatternRow(in, i, out), i);
        if (state != CellState::Filled) setState(out, n, i, state);
    }
}

void runMatches(Op op, Operands in, std::size_t n, Vector& out) {
    std::int8_t* result = out.makeBooleans();
    std::fill_n(result, n, std::int8_t{0});
    const bool isSimilar = op == Op::SimilarTo;
    eachRow(in, n, out, [&](PatternRow row, std::size_t i) {
        const std::string_view third = in.size() > 2 ? row.text(2) : isSimilar ? "\\" : "";
        if (const CellState state = row.prepare(row.text(1), third, isSimilar); state != CellState::Filled)
            return state;
        const Match match = row.next(0);
        result[i] = match.state == CellState::Filled ? 1 : 0;
        return match.state == CellState::Empty ? CellState::Filled : match.state;
    });
}

void runCount(Operands in, std::size_t n, Vector& out) {
    std::int64_t* result = out.makeIntegers();
    std::fill_n(result, n, std::int64_t{0});
    eachRow(in, n, out, [&](PatternRow row, std::size_t i) {
        if (const CellState state = row.prepare(row.text(1), row.text(3), false); state != CellState::Filled)
            return state;
        Match match = row.find(row.number(2), 1);
        while (match.state == CellState::Filled) {
            ++result[i];
            const auto from = row.behind(match.span);
            match = from ? row.next(*from) : Match{};
        }
        return match.state == CellState::Empty ? CellState::Filled : match.state;
    });
}

void runPosition(Operands in, std::size_t n, Vector& out) {
    std::int64_t* result = out.makeIntegers();
    std::fill_n(result, n, std::int64_t{0});
    eachRow(in, n, out, [&](PatternRow row, std::size_t i) {
        if (const CellState state = row.prepare(row.text(1), row.text(5), false); state != CellState::Filled)
            return state;
        const std::int64_t end = row.number(4);
        if (end != 0 && end != 1) return CellState::NotDefined;
        Match match = row.find(row.number(2), row.number(3));
        if (match.state == CellState::Filled) match = row.part(row.number(6));
        if (match.state == CellState::Filled) {
            const std::size_t bytes = end == 0 ? match.span.begin : match.span.end;
            result[i] = static_cast<std::int64_t>(codePointCount(row.text(0).substr(0, bytes))) + 1;
        }
        return match.state == CellState::Empty ? CellState::Filled : match.state;
    });
}

void runMatchText(Operands in, std::size_t n, Vector& out) {
    std::string_view* result = out.makeTexts();
    std::fill_n(result, n, std::string_view());
    eachRow(in, n, out, [&](PatternRow row, std::size_t i) {
        if (const CellState state = row.prepare(row.text(1), row.text(4), false); state != CellState::Filled)
            return state;
        Match match = row.find(row.number(2), row.number(3));
        if (match.state == CellState::Filled) match = row.part(row.number(5));
        if (match.state == CellState::Filled)
            result[i] = row.text(0).substr(match.span.begin, match.span.end - match.span.begin);
        return match.state;
    });
}

/// \1 to \9 are groups, \& is the whole, \\ a backslash.
void appendReplacement(std::string& out, std::string_view replacement, std::string_view text, const Regex& regex) {
    for (std::size_t at = 0; at < replacement.size(); ++at) {
        const char c = replacement[at];
        const char next = at + 1 < replacement.size() ? replacement[at + 1] : '\0';
        const bool isGroup = c == '\\' && ((next >= '1' && next <= '9') || next == '&');
        if (isGroup) {
            const RegexSpan span = regex.group(next == '&' ? 0 : next - '0');
            if (span.isSet) out.append(text.substr(span.begin, span.end - span.begin));
        } else {
            out += c;
        }
        if (isGroup || (c == '\\' && next == '\\')) ++at;
    }
}

CellState replaceIn(PatternRow row, Vector& out, std::string_view& result) {
    if (const CellState state = row.prepare(row.text(1), row.text(5), false, true); state != CellState::Filled)
        return state;
    const std::int64_t asked = row.number(4);
    if (asked < 0 && asked != kUnstated) return CellState::NotDefined;
    const std::int64_t which = asked >= 0 ? asked : row.regex().isGlobal() ? 0 : 1;
    const std::string_view text = row.text(0);
    std::string made;
    std::size_t copied = 0;
    Match match = row.find(row.number(3), 1);
    for (std::int64_t number = 1; match.state == CellState::Filled; ++number) {
        if (which == 0 || which == number) {
            made.append(text.substr(copied, match.span.begin - copied));
            appendReplacement(made, row.text(2), text, row.regex());
            copied = match.span.end;
        }
        if (!out.hasRoomFor(made.size() + text.size() - copied)) return CellState::TextTooLong;
        const auto from = which == number ? std::nullopt : row.behind(match.span);
        match = from ? row.next(*from) : Match{};
    }
    if (isError(match.state)) return match.state;
    made.append(text.substr(copied));
    result = out.keep(made);
    return CellState::Filled;
}

}  // namespace

void runPattern(Op op, Operands in, std::size_t n, Vector& out) {
    out.forget();
    joinStates(in, n, out);
    switch (op) {
        case Op::MatchCount: return runCount(in, n, out);
        case Op::MatchPosition: return runPosition(in, n, out);
        case Op::MatchText: return runMatchText(in, n, out);
        case Op::MatchReplace: {
            std::string_view* result = out.makeTexts();
            std::fill_n(result, n, std::string_view());
            return eachRow(in, n, out,
                           [&](const PatternRow& row, std::size_t i) { return replaceIn(row, out, result[i]); });
        }
        default: return runMatches(op, in, n, out);
    }
}

}  // namespace jollyrow
