// SPDX-License-Identifier: MIT
// Covered by tests/formats/duration_text_test.cpp.
#include "core/formats/duration_text.h"

#include <array>
#include <string>

namespace jollyrow {
namespace {

constexpr std::int64_t kMicros = 1'000'000;
constexpr std::size_t kMostDigits = 8;  // of one number: exact decimals of it fit 128 bits

struct Unit {
    std::string_view word;
    std::int64_t seconds;
};
constexpr std::array kUnits = {
    Unit{"d", 86400},  Unit{"day", 86400}, Unit{"days", 86400}, Unit{"h", 3600}, Unit{"hr", 3600},
    Unit{"hrs", 3600}, Unit{"hour", 3600}, Unit{"hours", 3600}, Unit{"m", 60},   Unit{"min", 60},
    Unit{"mins", 60},  Unit{"minute", 60}, Unit{"minutes", 60}, Unit{"s", 1},    Unit{"sec", 1},
    Unit{"secs", 1},   Unit{"second", 1},  Unit{"seconds", 1},
};

class Reader {
  public:
    explicit Reader(std::string_view text) : rest_(text) {}
    bool atEnd() const { return rest_.empty(); }
    std::string_view rest() const { return rest_; }

    void skipBlanks() {
        while (!rest_.empty())
            if (rest_.front() == ' ' || rest_.front() == '\t')
                rest_.remove_prefix(1);
            else if (rest_.starts_with("\u00a0"))
                rest_.remove_prefix(2);
            else if (rest_.starts_with("\u2009") || rest_.starts_with("\u202f"))
                rest_.remove_prefix(3);
            else
                return;
    }
    bool skip(std::string_view what) {
        if (!rest_.starts_with(what)) return false;
        rest_.remove_prefix(what.size());
        return true;
    }
    bool minus() { return skip("-") || skip("\u2212"); }

    /// A number in millionths; nullopt when there is none, or it is too long.
    std::optional<std::int64_t> number(bool mayBeFraction) {
        const std::size_t whole = digits(rest_);
        if (whole == 0 || whole > kMostDigits) return std::nullopt;
        std::int64_t value = std::stoll(std::string(rest_.substr(0, whole))) * kMicros;
        rest_.remove_prefix(whole);
        if (rest_.empty() || (rest_.front() != '.' && rest_.front() != ',')) return value;
        const std::size_t part = digits(rest_.substr(1));
        if (!mayBeFraction || part == 0 || part > 6) return std::nullopt;
        std::string millionths(rest_.substr(1, part));
        millionths.resize(6, '0');
        rest_.remove_prefix(part + 1);
        isFraction_ = true;
        return value + std::stoll(millionths);
    }
    bool isFraction() const { return isFraction_; }

    std::int64_t unit() {
        std::string word;
        while (!rest_.empty() && ((rest_.front() | 0x20) >= 'a' && (rest_.front() | 0x20) <= 'z')) {
            word += static_cast<char>(rest_.front() | 0x20);
            rest_.remove_prefix(1);
        }
        for (const Unit& known : kUnits)
            if (known.word == word) return known.seconds;
        return word.empty() ? 0 : -1;
    }

  private:
    static std::size_t digits(std::string_view text) {
        std::size_t count = 0;
        while (count < text.size() && text[count] >= '0' && text[count] <= '9') ++count;
        return count;
    }
    std::string_view rest_;
    bool isFraction_ = false;
};

/// Blanks count for nothing; what stands between the numbers does.
std::optional<Int128> asWritten(std::string_view text, const std::vector<DurationPiece>& pattern) {
    Reader reader(text);
    Int128 micros = 0;
    int numbers = 0;
    for (const DurationPiece& piece : pattern) {
        Reader literal(piece.literal);
        for (literal.skipBlanks(); !literal.atEnd(); literal.skipBlanks()) {
            reader.skipBlanks();
            if (!reader.skip(literal.rest().substr(0, 1))) return std::nullopt;
            literal.skip(literal.rest().substr(0, 1));
        }
        if (piece.seconds == 0) continue;
        reader.skipBlanks();
        const auto number = reader.number(false);
        if (!number) return std::nullopt;
        micros += static_cast<Int128>(*number) * piece.seconds;
        ++numbers;
    }
    reader.skipBlanks();
    return reader.atEnd() && numbers > 1 ? std::optional(micros) : std::nullopt;
}

std::optional<Int128> byUnits(std::string_view text) {
    Reader reader(text);
    Int128 micros = 0;
    std::int64_t last = 0;
    while (!reader.atEnd()) {
        if (reader.isFraction()) return std::nullopt;
        const auto number = reader.number(true);
        if (!number) return std::nullopt;
        reader.skipBlanks();
        std::int64_t seconds = reader.unit();
        if (seconds == 0 && reader.atEnd() && !reader.isFraction())  // "1h30"
            seconds = last == 86400 ? 3600 : last == 3600 ? 60 : last == 60 ? 1 : 0;
        if (seconds <= 0 || (last != 0 && seconds >= last)) return std::nullopt;
        micros += static_cast<Int128>(*number) * seconds;
        last = seconds;
        reader.skipBlanks();
    }
    return last != 0 ? std::optional(micros) : std::nullopt;
}

/// Of ISO 8601-1 5.5.2 what has a fixed length: no years and months.
std::optional<Int128> asIso(std::string_view text) {
    std::string letters;
    for (const char c : text) letters += c >= 'a' && c <= 'z' ? static_cast<char>(c - 32) : c;
    if (letters.size() < 3 || letters.front() != 'P' || letters.find(' ') != std::string::npos) return std::nullopt;
    const std::size_t time = letters.find('T');
    const std::string days = letters.substr(1, time == std::string::npos ? time : time - 1);
    const std::string clock = time == std::string::npos ? std::string() : letters.substr(time + 1);
    if (time != std::string::npos && clock.empty()) return std::nullopt;
    if (days.find_first_not_of("0123456789D") != std::string::npos ||
        clock.find_first_not_of("0123456789HMS.,") != std::string::npos || (!days.empty() && days.back() != 'D') ||
        (!clock.empty() && clock.back() >= '0' && clock.back() <= '9'))
        return std::nullopt;
    return byUnits(days + clock);
}

}  // namespace

std::optional<Int128> durationMicros(std::string_view text, const std::vector<DurationPiece>& pattern) {
    Reader reader(text);
    reader.skipBlanks();
    const bool isNegative = reader.minus();
    reader.skipBlanks();
    auto micros = asWritten(reader.rest(), pattern);
    if (!micros) micros = byUnits(reader.rest());
    if (!micros) micros = asIso(reader.rest());
    return micros && isNegative ? std::optional(-*micros) : micros;
}

}  // namespace jollyrow
