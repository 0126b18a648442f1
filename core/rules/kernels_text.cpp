// SPDX-License-Identifier: MIT
// Functions of texts, record by record: characters are code points, case is Unicode's full mapping. Results are kept
// by the vector they belong to; parts of an operand's text are views of it. Covered by
// tests/rules/postgres_oracle_test.cpp and sqlite_rules_test.cpp.
#include <unicode/locid.h>
#include <unicode/uchar.h>
#include <unicode/unistr.h>
#include <unicode/utf8.h>

#include <algorithm>
#include <limits>
#include <memory>
#include <utility>

#include "core/rules/collation_key.h"
#include "core/rules/kernels.h"
#include "core/rules/like_pattern.h"
#include "core/rules/utf8.h"

namespace jollyrow {
namespace {

/// Plain ASCII without a letter of the other case stays as it is.
bool isFolded(std::string_view text, bool upper) {
    unsigned other = 0;
    const auto first = static_cast<unsigned char>(upper ? 'a' : 'A');
    for (const char c : text) {
        const auto byte = static_cast<unsigned char>(c);
        other |=
            static_cast<unsigned>(byte >= 0x80) | static_cast<unsigned>(static_cast<unsigned char>(byte - first) < 26);
    }
    return other == 0;
}

/// ASCII alone: a loop the compiler vectorises. False when there is more, and nothing is done then.
bool mapAscii(std::string_view text, bool upper, std::string& out) {
    const auto first = static_cast<unsigned char>(upper ? 'a' : 'A');
    const std::size_t start = out.size();
    out.resize(start + text.size());
    unsigned beyond = 0;
    for (std::size_t i = 0; i < text.size(); ++i) {
        const auto byte = static_cast<unsigned char>(text[i]);
        beyond |= byte;
        out[start + i] = static_cast<char>(byte ^ (static_cast<unsigned char>(byte - first) < 26 ? 0x20 : 0));
    }
    if (beyond < 0x80) return true;
    out.resize(start);
    return false;
}

/// Code points that one code point cannot stand for in the other case, or not everywhere: Unicode's SpecialCasing.txt
/// (ß, ligatures, İ, the final sigma).
bool hasSpecialCase(UChar32 c, bool upper) {
    if (!upper) return c == 0x130 || c == 0x3A3;
    return c == 0xDF || c == 0x149 || c == 0x1F0 || c == 0x390 || c == 0x3B0 || c == 0x587 ||
           (c >= 0x1E96 && c <= 0x1E9A) || (c >= 0x1F50 && c <= 0x1FFC) || (c >= 0xFB00 && c <= 0xFB17);
}

std::string mappedWhole(std::string_view text, bool upper) {
    auto whole = icu::UnicodeString::fromUTF8(icu::StringPiece(text.data(), static_cast<std::int32_t>(text.size())));
    upper ? whole.toUpper(icu::Locale::getRoot()) : whole.toLower(icu::Locale::getRoot());
    std::string out;
    return whole.toUTF8String(out);
}

std::string mapped(std::string_view text, bool upper) {
    std::string out;
    out.reserve(text.size());
    for (std::size_t at = 0; at < text.size();) {
        const auto byte = static_cast<unsigned char>(text[at]);
        if (byte < 0x80) {
            const char c = text[at++];
            out += upper ? (c >= 'a' && c <= 'z' ? static_cast<char>(c - 32) : c)
                         : (c >= 'A' && c <= 'Z' ? static_cast<char>(c + 32) : c);
            continue;
        }
        const std::size_t start = at;
        auto next = static_cast<std::int64_t>(at);
        UChar32 c = 0;
        U8_NEXT(text.data(), next, static_cast<std::int64_t>(text.size()), c);
        at = static_cast<std::size_t>(next);
        if (c < 0) {
            out.append(text.substr(start, at - start));
            continue;
        }
        if (hasSpecialCase(c, upper)) return mappedWhole(text, upper);
        const UChar32 to = upper ? u_toupper(c) : u_tolower(c);
        char bytes[4];
        std::int32_t length = 0;
        U8_APPEND_UNSAFE(bytes, length, to);
        out.append(bytes, static_cast<std::size_t>(length));
    }
    return out;
}

/// Is any code point of `set` the one that starts at `at`?
bool contains(std::string_view set, std::string_view c) {
    for (std::size_t at = 0; at < set.size(); at += codePointBytes(set, at))
        if (set.substr(at, codePointBytes(set, at)) == c) return true;
    return false;
}

std::string_view trimmed(std::string_view text, std::string_view set, bool leading, bool trailing) {
    while (leading && !text.empty()) {
        const std::size_t bytes = codePointBytes(text, 0);
        if (!contains(set, text.substr(0, bytes))) break;
        text.remove_prefix(bytes);
    }
    while (trailing && !text.empty()) {
        std::size_t start = text.size() - 1;
        while (start > 0 && (static_cast<unsigned char>(text[start]) & 0xC0) == 0x80) --start;
        if (!contains(set, text.substr(start))) break;
        text.remove_suffix(text.size() - start);
    }
    return text;
}

std::int64_t position(std::string_view part, std::string_view text) {
    const std::size_t at = text.find(part);
    return at == std::string_view::npos ? 0 : static_cast<std::int64_t>(codePointCount(text.substr(0, at))) + 1;
}

/// From the 1-based `start`, which may lie before the text, `length` characters.
std::string_view substring(std::string_view text, std::int64_t start, std::int64_t length) {
    const Int128 end = static_cast<Int128>(start) + length;
    const std::int64_t first = std::max<std::int64_t>(start, 1);
    if (end <= first) return {};
    const std::size_t from = codePointOffset(text, static_cast<std::size_t>(first - 1));
    const std::string_view rest = text.substr(from);
    const Int128 count = end - first;
    return count >= static_cast<Int128>(rest.size())
               ? rest
               : rest.substr(0, codePointOffset(rest, static_cast<std::size_t>(count)));
}

/// The first n characters; a negative n leaves out that many at the end.
std::string_view leftPart(std::string_view text, std::int64_t n) {
    if (n < 0)
        n = std::max<std::int64_t>(
            0, static_cast<std::int64_t>(codePointCount(text)) + std::max<std::int64_t>(n, -(std::int64_t{1} << 40)));
    return text.substr(0, codePointOffset(text, static_cast<std::size_t>(n)));
}
std::string_view rightPart(std::string_view text, std::int64_t n) {
    const auto count = static_cast<std::int64_t>(codePointCount(text));
    const std::int64_t skip = n < 0 ? std::min(count, -std::max<std::int64_t>(n, -(std::int64_t{1} << 40)))
                                    : std::max<std::int64_t>(0, count - n);
    return text.substr(codePointOffset(text, static_cast<std::size_t>(skip)));
}

std::string replaced(std::string_view text, std::string_view part, std::string_view with) {
    std::string out;
    if (part.empty()) return std::string(text);
    std::size_t at = 0;
    for (std::size_t found = text.find(part); found != std::string_view::npos; found = text.find(part, at)) {
        out.append(text.substr(at, found - at)).append(with);
        if (out.size() > kMostTextBytes) break;
        at = found + part.size();
    }
    return out.append(text.substr(at));
}

std::string reversed(std::string_view text) {
    std::string out(text.size(), '\0');
    std::size_t end = text.size();
    for (std::size_t at = 0; at < text.size();) {
        const std::size_t bytes = codePointBytes(text, at);
        end -= bytes;
        std::copy_n(text.begin() + static_cast<std::ptrdiff_t>(at), bytes,
                    out.begin() + static_cast<std::ptrdiff_t>(end));
        at += bytes;
    }
    return out;
}

/// Both forms of padding, as PostgreSQL has them: cuts what is too long, an empty fill pads nothing.
std::optional<std::string> padded(std::string_view text, std::int64_t length, std::string_view fill, bool left) {
    length = std::max<std::int64_t>(length, 0);
    const auto have = static_cast<std::int64_t>(codePointCount(text));
    if (have >= length || fill.empty()) return std::string(leftPart(text, length));
    if (length > static_cast<std::int64_t>(kMostTextBytes)) return std::nullopt;
    std::string padding;
    std::size_t at = 0;
    for (std::int64_t i = have; i < length; ++i) {
        const std::size_t bytes = codePointBytes(fill, at);
        padding.append(fill.substr(at, bytes));
        at = (at + bytes) % fill.size();
        if (padding.size() > kMostTextBytes) return std::nullopt;
    }
    return left ? padding.append(text) : std::string(text) + padding;
}

bool isWordPart(UChar32 c) { return u_isalnum(c) != 0; }

/// Each word begins with a capital and goes on in small letters; words are runs of letters and digits.
std::string withInitialCapitals(std::string_view text) {
    std::string out;
    bool isInside = false;
    for (std::size_t at = 0; at < text.size();) {
        const std::size_t bytes = codePointBytes(text, at);
        UChar32 c = 0;
        std::int32_t place = 0;
        U8_NEXT_OR_FFFD(text.data() + at, place, static_cast<std::int32_t>(bytes), c);
        const UChar32 mapped = isInside ? u_tolower(c) : u_toupper(c);
        if (mapped == c)
            out.append(text.substr(at, bytes));
        else
            appendUtf8(out, static_cast<std::uint32_t>(mapped));
        isInside = isWordPart(c);
        at += bytes;
    }
    return out;
}

/// Each character that stands in `from` becomes the one at its place in `to`, or goes where there is none.
std::string translated(std::string_view text, std::string_view from, std::string_view to) {
    std::string out;
    for (std::size_t at = 0; at < text.size();) {
        const std::size_t bytes = codePointBytes(text, at);
        const std::string_view character = text.substr(at, bytes);
        at += bytes;
        std::size_t place = 0, source = 0;
        while (source < from.size() && from.substr(source, codePointBytes(from, source)) != character) {
            source += codePointBytes(from, source);
            ++place;
        }
        if (source >= from.size()) {
            out.append(character);
            continue;
        }
        const std::size_t target = codePointOffset(to, place);
        if (target < to.size()) out.append(to.substr(target, codePointBytes(to, target)));
    }
    return out;
}

/// The n-th of the parts between `between`, counted from the end where n is negative.
std::string_view splitPart(std::string_view text, std::string_view between, std::int64_t n) {
    if (between.empty()) return n == 1 || n == -1 ? text : std::string_view();
    for (; n > 1; --n) {
        const std::size_t found = text.find(between);
        if (found == std::string_view::npos) return {};
        text.remove_prefix(found + between.size());
    }
    if (n > 0) return text.substr(0, text.find(between));
    for (; n < -1; ++n) {
        const std::size_t found = text.rfind(between);
        if (found == std::string_view::npos) return {};
        text = text.substr(0, found);
    }
    const std::size_t last = text.rfind(between);
    return last == std::string_view::npos ? text : text.substr(last + between.size());
}

struct Arguments {
    Operands in;
    std::size_t i;
    std::string_view text(std::size_t k) const { return in[k]->texts[in[k]->at(i)]; }
    std::int64_t number(std::size_t k) const { return in[k]->integers[in[k]->at(i)]; }
    bool has(std::size_t k) const { return k < in.size(); }
};

/// One text result, or the state that stands instead.
struct TextResult {
    std::string_view view = {};
    CellState state = CellState::Filled;
};

class TextMaker {
  public:
    TextMaker(Op op, Vector& out) : op_(op), out_(out) {}

    TextResult operator()(const Arguments& a) {
        switch (op_) {
            case Op::Upper:
            case Op::Lower: return folded(a.text(0), op_ == Op::Upper);
            case Op::CollationKey: return kept(collationKey(a.text(0), a.text(1)));
            case Op::Reverse: return kept(reversed(a.text(0)));
            case Op::Concatenate: {
                const std::string_view x = a.text(0), y = a.text(1);
                if (x.size() + y.size() > kMostTextBytes) return {{}, CellState::TextTooLong};
                std::string both;
                both.reserve(x.size() + y.size());
                return kept(both.append(x).append(y));
            }
            case Op::Trim: return {trimmed(a.text(0), a.has(1) ? a.text(1) : " ", true, true)};
            case Op::TrimLeading: return {trimmed(a.text(0), a.has(1) ? a.text(1) : " ", true, false)};
            case Op::TrimTrailing: return {trimmed(a.text(0), a.has(1) ? a.text(1) : " ", false, true)};
            case Op::Substring:
                if (a.has(2) && a.number(2) < 0) return {{}, CellState::NegativeLength};
                return {substring(a.text(0), a.number(1),
                                  a.has(2) ? a.number(2) : std::numeric_limits<std::int64_t>::max())};
            case Op::InitialCapitals: return kept(withInitialCapitals(a.text(0)));
            case Op::Translate: return kept(translated(a.text(0), a.text(1), a.text(2)));
            case Op::SplitPart:
                if (a.number(2) == 0) return {{}, CellState::NotDefined};
                return {splitPart(a.text(0), a.text(1), a.number(2))};
            case Op::Character: {
                const std::int64_t code = a.number(0);
                if (code <= 0 || code > UCHAR_MAX_VALUE || U_IS_SURROGATE(code)) return {{}, CellState::NotDefined};
                std::string one;
                appendUtf8(one, static_cast<std::uint32_t>(code));
                return kept(one);
            }
            case Op::Left: return {leftPart(a.text(0), a.number(1))};
            case Op::Right: return {rightPart(a.text(0), a.number(1))};
            case Op::Replace: return kept(replaced(a.text(0), a.text(1), a.text(2)));
            case Op::Repeat: {
                const std::int64_t times = std::max<std::int64_t>(0, a.number(1));
                if (!a.text(0).empty() && static_cast<Int128>(times) * static_cast<Int128>(a.text(0).size()) >
                                              static_cast<Int128>(kMostTextBytes))
                    return {{}, CellState::TextTooLong};
                std::string all;
                for (std::int64_t k = 0; k < times && !a.text(0).empty(); ++k) all.append(a.text(0));
                return kept(all);
            }
            case Op::PadLeft:
            case Op::PadRight: {
                auto text = padded(a.text(0), a.number(1), a.has(2) ? a.text(2) : " ", op_ == Op::PadLeft);
                return text ? kept(*text) : TextResult{{}, CellState::TextTooLong};
            }
            case Op::Overlay: {
                const std::int64_t start = a.number(2);
                if (start <= 0) return {{}, CellState::NegativeLength};
                const std::int64_t length =
                    a.has(3) ? a.number(3) : static_cast<std::int64_t>(codePointCount(a.text(1)));
                const Int128 after = static_cast<Int128>(start) + length;
                std::string all(substring(a.text(0), 1, start - 1));
                all.append(a.text(1));
                all.append(substring(a.text(0),
                                     static_cast<std::int64_t>(
                                         std::clamp<Int128>(after, -(std::int64_t{1} << 60), std::int64_t{1} << 60)),
                                     std::int64_t{1} << 61));
                return kept(all);
            }
            default: return {{}, CellState::FunctionFailed};
        }
    }

  private:
    TextResult folded(std::string_view text, bool upper) {
        if (isFolded(text, upper)) return {text};
        scratch_.clear();
        if (!out_.hasRoomFor(text.size())) return {{}, CellState::TextTooLong};
        return {out_.keep(mapAscii(text, upper, scratch_) ? scratch_ : mapped(text, upper))};
    }
    TextResult kept(const std::string& text) {
        if (!out_.hasRoomFor(text.size())) return {{}, CellState::TextTooLong};
        return {out_.keep(text)};
    }
    /// In an unknown collation, which a program does not name, a text is its own key.
    std::string collationKey(std::string_view text, std::string_view name) {
        if (!keys_ || name != collation_) {
            if (!isKnownCollation(name)) return std::string(text);
            collation_ = name;
            keys_ = std::make_unique<CollationKeys>(name);
        }
        return keys_->of(text);
    }
    Op op_;
    Vector& out_;
    std::string scratch_;
    std::string collation_;
    std::unique_ptr<CollationKeys> keys_;
};

void runLike(Operands in, std::size_t n, Vector& out) {
    joinStates(in, n, out);
    std::int8_t* result = out.makeBooleans();
    const bool constant = in[1]->constant && (in.size() < 3 || in[2]->constant);
    const auto patternOf = [&](std::size_t i) {
        return LikePattern::make(in[1]->texts[in[1]->at(i)], in.size() < 3 ? "\\" : in[2]->texts[in[2]->at(i)]);
    };
    if (constant && !out.prepared && in[1]->state(0) == CellState::Filled &&
        (in.size() < 3 || in[2]->state(0) == CellState::Filled)) {
        if (auto made = patternOf(0)) out.pattern = std::make_shared<const LikePattern>(std::move(*made));
        out.prepared = true;
    }
    for (std::size_t i = 0; i < n; ++i) {
        result[i] = 0;
        if (out.states && out.states[i] != 0) continue;
        if (constant && out.pattern) {
            result[i] = out.pattern->matches(in[0]->texts[in[0]->at(i)]);
        } else if (const auto pattern = constant ? std::nullopt : patternOf(i)) {
            result[i] = pattern->matches(in[0]->texts[in[0]->at(i)]);
        } else {
            setState(out, n, i, CellState::BadPattern);
        }
    }
}

/// CONCAT leaves empties out and is never empty itself; CONCAT_WS is where what stands between the others is.
void runConcat(Operands in, std::size_t n, bool hasBetween, Vector& out) {
    std::string_view* result = out.makeTexts();
    out.states = nullptr;
    for (std::size_t i = 0; i < n; ++i) {
        std::string all;
        CellState failed = CellState::Filled;
        bool isFirst = true;
        const CellState between = hasBetween ? in[0]->state(i) : CellState::Filled;
        for (const Vector* v : in) {
            const CellState state = v->state(i);
            if (isError(state) && !isError(failed)) failed = state;
            if (hasBetween && v == in[0]) continue;
            if (state == CellState::Filled && between == CellState::Filled) {
                if (hasBetween && !std::exchange(isFirst, false)) all.append(in[0]->texts[in[0]->at(i)]);
                all.append(v->texts[v->at(i)]);
            }
            if (!out.hasRoomFor(all.size()) && !isError(failed)) failed = CellState::TextTooLong;
        }
        if (!isError(failed)) failed = between;
        result[i] = failed != CellState::Filled ? std::string_view() : out.keep(all);
        if (failed != CellState::Filled) setState(out, n, i, failed);
    }
}

std::int64_t measured(Op op, const Arguments& a) {
    const std::string_view text = a.text(0);
    switch (op) {
        case Op::Position: return position(text, a.text(1));
        case Op::CharLength: return static_cast<std::int64_t>(codePointCount(text));
        case Op::OctetLength: return static_cast<std::int64_t>(text.size());
        default: {  // ASCII
            if (text.empty()) return 0;
            UChar32 c = 0;
            std::int32_t place = 0;
            U8_NEXT_OR_FFFD(text.data(), place, static_cast<std::int32_t>(std::min<std::size_t>(text.size(), 4)), c);
            return c;
        }
    }
}

}  // namespace

std::string lowered(std::string_view text) { return mapped(text, false); }
std::string uppered(std::string_view text) { return mapped(text, true); }

void runText(Op op, Operands in, std::size_t n, Vector& out) {
    out.forget();
    if (op == Op::Like) return runLike(in, n, out);
    if (op == Op::Concat || op == Op::ConcatWith) return runConcat(in, n, op == Op::ConcatWith, out);
    joinStates(in, n, out);
    if (op == Op::CharLength || op == Op::OctetLength || op == Op::Position || op == Op::CodePoint) {
        std::int64_t* result = out.makeIntegers();
        for (std::size_t i = 0; i < n; ++i) {
            result[i] = 0;
            if (!out.states || out.states[i] == 0) result[i] = measured(op, {in, i});
        }
        return;
    }
    std::string_view* result = out.makeTexts();
    TextMaker make(op, out);
    for (std::size_t i = 0; i < n; ++i) {
        result[i] = {};
        if (out.states && out.states[i] != 0) continue;
        const TextResult made = make({in, i});
        result[i] = made.view;
        if (made.state != CellState::Filled) setState(out, n, i, made.state);
    }
}

}  // namespace jollyrow
