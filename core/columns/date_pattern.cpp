// SPDX-License-Identifier: MIT
// Text and pattern are walked together, letter run by letter run: as fast as a compiled form for patterns this short.
// Writing is checked by reading what was written. Covered by tests/columns/date_pattern_test.cpp, with ICU as judge.
#include "core/columns/date_pattern.h"

#include <fmt/format.h>

#include <array>
#include <cstdlib>

#include "core/columns/civil.h"

namespace jollyrow {
namespace {

constexpr std::array<std::string_view, 12> kMonths = {"January",   "February", "March",    "April",
                                                      "May",       "June",     "July",     "August",
                                                      "September", "October",  "November", "December"};
constexpr std::string_view kLetters = "yMdHhamsSXx";
constexpr std::int64_t kMicrosPerMinute = 60'000'000;

/// A run of one letter, or a literal character.
struct Piece {
    char letter = 0;  ///< 0: literal
    int count = 0;
    char literal = 0;
    std::size_t at = 0;  ///< in the pattern
};

/// Gives the pieces of a pattern one after the other.
class Pieces {
  public:
    explicit Pieces(std::string_view pattern) : pattern_(pattern) {}
    /// False at the end, or where an apostrophe is not closed.
    bool next(Piece& piece) {
        while (at_ < pattern_.size()) {
            const char c = pattern_[at_];
            piece = {0, 0, c, at_};
            if (c == '\'') {
                ++at_;
                if (at_ < pattern_.size() && pattern_[at_] == '\'') return ++at_, true;  // '' is an apostrophe
                quoted_ = !quoted_;
                continue;
            }
            if (quoted_ || !isLetter(c)) return ++at_, true;
            piece.letter = c;
            piece.literal = 0;
            while (at_ < pattern_.size() && pattern_[at_] == c) ++piece.count, ++at_;
            return true;
        }
        return false;
    }
    bool isOpen() const { return quoted_; }

  private:
    static bool isLetter(char c) { return (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z'); }
    std::string_view pattern_;
    std::size_t at_ = 0;
    bool quoted_ = false;
};

/// What the texts of a pattern say, put together.
struct Fields {
    int year = 1970, month = 1, day = 1, hour = 0, minute = 0, second = 0;
    std::int64_t fraction = 0;  ///< microseconds
    std::int64_t offset = 0;    ///< microseconds ahead of UTC
    bool twelve = false, afternoon = false;
};

/// Digits at the front of `text`: exactly `count`, or, when `count` is 1, as many as there are up to `most`.
std::optional<int> takeNumber(std::string_view& text, int count, int most) {
    int value = 0, used = 0;
    const int wanted = count == 1 ? most : count;
    while (used < wanted && static_cast<std::size_t>(used) < text.size() &&
           text[static_cast<std::size_t>(used)] >= '0' && text[static_cast<std::size_t>(used)] <= '9')
        value = value * 10 + (text[static_cast<std::size_t>(used++)] - '0');
    if (used == 0 || (count > 1 && used != count)) return std::nullopt;
    if (count == 1 && used > 1 && text[0] == '0') return std::nullopt;  // it would be written without the zero
    text.remove_prefix(static_cast<std::size_t>(used));
    return value;
}

bool takeMonth(std::string_view& text, int count, Fields& fields) {
    if (count <= 2) {
        const auto month = takeNumber(text, count, 2);
        fields.month = month.value_or(0);
        return month.has_value();
    }
    for (std::size_t m = 0; m < kMonths.size(); ++m) {
        const std::string_view name = count == 3 ? kMonths[m].substr(0, 3) : kMonths[m];
        if (!text.starts_with(name)) continue;
        text.remove_prefix(name.size());
        fields.month = static_cast<int>(m) + 1;
        return true;
    }
    return false;
}

bool takeFraction(std::string_view& text, int count, Fields& fields) {
    const auto parts = takeNumber(text, count, 1);
    if (!parts) return false;
    fields.fraction = *parts;
    for (int i = count; i < 6; ++i) fields.fraction *= 10;
    return true;
}

/// One X: +02, +0230 or Z; two of them: +0200; three: +02:00. The small letters have no Z.
bool takeOffset(std::string_view& text, const Piece& piece, Fields& fields) {
    if (piece.letter == 'X' && text.starts_with('Z')) return text.remove_prefix(1), true;
    if (text.empty() || (text[0] != '+' && text[0] != '-')) return false;
    const int sign = text[0] == '-' ? -1 : 1;
    text.remove_prefix(1);
    const auto hours = takeNumber(text, 2, 2);
    if (piece.count == 3 && !text.starts_with(':')) return false;
    if (piece.count == 3) text.remove_prefix(1);
    const auto minutes = piece.count == 1 ? std::optional(0) : takeNumber(text, 2, 2);
    if (!hours || !minutes || *hours > 15 || *minutes > 59) return false;
    fields.offset = sign * (*hours * 60 + *minutes) * kMicrosPerMinute;
    return !(piece.letter == 'X' && fields.offset == 0);
}

bool takeYear(std::string_view& text, int count, Fields& fields) {
    const auto year = takeNumber(text, count, 4);
    if (!year) return false;
    constexpr int kPivot = 69;  // POSIX strptime
    fields.year = count == 2 ? *year + (*year < kPivot ? 2000 : 1900) : *year;
    return true;
}

bool takePiece(std::string_view& text, const Piece& piece, Fields& fields) {
    const auto number = [&](int& into) {
        const auto value = takeNumber(text, piece.count, 2);
        into = value.value_or(-1);
        return value.has_value();
    };
    switch (piece.letter) {
        case 'y': return takeYear(text, piece.count, fields);
        case 'M': return takeMonth(text, piece.count, fields);
        case 'd': return number(fields.day);
        case 'H': return number(fields.hour);
        case 'h': return fields.twelve = true, number(fields.hour) && fields.hour >= 1 && fields.hour <= 12;
        case 'a':
            fields.afternoon = text.starts_with("PM");
            if (!fields.afternoon && !text.starts_with("AM")) return false;
            return text.remove_prefix(2), true;
        case 'm': return number(fields.minute);
        case 's': return number(fields.second);
        case 'S': return takeFraction(text, piece.count, fields);
        case 'X':
        case 'x': return takeOffset(text, piece, fields);
        default: break;
    }
    if (text.empty() || text[0] != piece.literal) return false;
    return text.remove_prefix(1), true;
}

std::optional<std::int64_t> valueOf(const Fields& f, PatternKind kind) {
    const auto day = f.month < 1 || f.month > 12 || f.day < 1
                         ? std::nullopt
                         : daysFromCivil({f.year, static_cast<unsigned>(f.month), static_cast<unsigned>(f.day)});
    const int hour = f.twelve ? f.hour % 12 + (f.afternoon ? 12 : 0) : f.hour;
    if (!day || f.minute > 59 || f.second > 59) return std::nullopt;
    const std::int64_t time =
        (static_cast<std::int64_t>(hour) * 60 + f.minute) * kMicrosPerMinute + f.second * 1'000'000 + f.fraction;
    if (time > kMicrosPerDay || (kind != PatternKind::Time && hour > 23)) return std::nullopt;
    switch (kind) {
        case PatternKind::Date: return *day;
        case PatternKind::Time: return time;
        case PatternKind::Timestamp:
        case PatternKind::Instant: return *day * kMicrosPerDay + time - f.offset;
    }
    return std::nullopt;
}

void writePiece(std::string& out, const Piece& piece, const Fields& f) {
    const auto number = [&](int value) { out += fmt::format("{:0{}}", value, piece.count); };
    const int twelve = f.hour % 12 == 0 ? 12 : f.hour % 12;
    switch (piece.letter) {
        case 0: out += piece.literal; return;
        case 'y': return number(piece.count == 2 ? f.year % 100 : f.year);
        case 'M': {
            const std::string_view name = kMonths[static_cast<std::size_t>(f.month - 1)];
            if (piece.count <= 2) return number(f.month);
            out += piece.count == 3 ? name.substr(0, 3) : name;
            return;
        }
        case 'd': return number(f.day);
        case 'H': return number(f.hour);
        case 'h': return number(twelve);
        case 'a': out += f.hour % 24 < 12 ? "AM" : "PM"; return;
        case 'm': return number(f.minute);
        case 's': return number(f.second);
        case 'S': out += fmt::format("{:06}", f.fraction).substr(0, static_cast<std::size_t>(piece.count)); return;
        default: out += piece.letter == 'X' ? "Z" : piece.count == 1 ? "+00" : piece.count == 2 ? "+0000" : "+00:00";
    }
}

Fields fieldsOf(std::int64_t value, PatternKind kind) {
    Fields f;
    std::int64_t days = kind == PatternKind::Date ? value : 0, time = kind == PatternKind::Date ? 0 : value;
    if (kind == PatternKind::Timestamp || kind == PatternKind::Instant) {
        days = value / kMicrosPerDay - (value % kMicrosPerDay < 0 ? 1 : 0);
        time = value - days * kMicrosPerDay;
    }
    const CivilDate date = civilFromDays(static_cast<std::int32_t>(days));
    f.year = date.year;
    f.month = static_cast<int>(date.month);
    f.day = static_cast<int>(date.day);
    f.hour = static_cast<int>(time / (60 * kMicrosPerMinute));
    f.minute = static_cast<int>(time / kMicrosPerMinute % 60);
    f.second = static_cast<int>(time / 1'000'000 % 60);
    f.fraction = time % 1'000'000;
    return f;
}

Error wrong(std::string message, std::size_t at, std::size_t length) {
    return {ErrorCode::InvalidInput, std::move(message), TextRange{at, length}};
}

/// The most letters of a kind that may stand together.
int mostOf(char letter) {
    switch (letter) {
        case 'y':
        case 'M': return 4;
        case 'S': return 6;
        case 'X':
        case 'x': return 3;
        case 'a': return 1;
        default: return 2;
    }
}

}  // namespace

Result<PatternKind> checkDatePattern(std::string_view pattern) {
    std::string seen;
    Pieces pieces(pattern);
    for (Piece piece; pieces.next(piece);) {
        if (piece.letter == 0) continue;
        if (kLetters.find(piece.letter) == std::string_view::npos)
            return wrong(
                fmt::format("The letter {} is not read here. Use y M d, H m s S, h with a, and X; other letters "
                            "stand in apostrophes.",
                            piece.letter),
                piece.at, 1);
        if (piece.count > mostOf(piece.letter) || (piece.letter == 'y' && piece.count == 3))
            return wrong(fmt::format("{} is too many of one letter.",
                                     std::string(static_cast<std::size_t>(piece.count), piece.letter)),
                         piece.at, static_cast<std::size_t>(piece.count));
        if (seen.find(piece.letter) != std::string::npos)
            return wrong(fmt::format("{} stands twice.", piece.letter), piece.at, 1);
        seen += piece.letter;
    }
    if (pieces.isOpen()) return wrong("An apostrophe is not closed.", pattern.rfind('\''), 1);
    const auto has = [&](char letter) { return seen.find(letter) != std::string::npos; };
    const bool hasHour = has('H') || (has('h') && has('a'));
    const bool anyTime = seen.find_first_of("HhamsSXx") != std::string::npos;
    const bool isDay = has('y') && has('M') && has('d'), anyDay = has('y') || has('M') || has('d');
    if ((has('h') != has('a')) || (has('h') && has('H')) || (has('X') && has('x')))
        return wrong("h and a stand together, and not with H; of X and x there is one.", 0, pattern.size());
    if ((anyTime && !hasHour) || (has('s') && !has('m')) || (has('S') && !has('s')))
        return wrong("A time begins with the hour: H, or h with a; then m, s and S.", 0, pattern.size());
    if ((anyDay && !isDay) || (!anyDay && !anyTime) || ((has('X') || has('x')) && !isDay))
        return wrong("A date has y, M and d: dd.MM.yyyy.", 0, pattern.size());
    if (has('X') || has('x')) return PatternKind::Instant;
    return !anyDay ? PatternKind::Time : anyTime ? PatternKind::Timestamp : PatternKind::Date;
}

std::optional<std::int64_t> readByPattern(std::string_view text, std::string_view pattern, PatternKind kind) {
    Fields fields;
    Pieces pieces(pattern);
    for (Piece piece; pieces.next(piece);)
        if (!takePiece(text, piece, fields)) return std::nullopt;
    return text.empty() ? valueOf(fields, kind) : std::nullopt;
}

std::optional<std::string> writeByPattern(std::int64_t value, std::string_view pattern, PatternKind kind) {
    const Fields fields = fieldsOf(value, kind);
    std::string out;
    Pieces pieces(pattern);
    for (Piece piece; pieces.next(piece);) writePiece(out, piece, fields);
    return readByPattern(out, pattern, kind) == value ? std::optional(out) : std::nullopt;
}

}  // namespace jollyrow
