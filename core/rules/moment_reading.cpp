// SPDX-License-Identifier: MIT
// TO_DATE and TO_TIMESTAMP. Without FX blanks before fields are skipped, a separator of the pattern stands for any one
// separator of the text or for none, and a number reads on as far as it goes unless another number follows in the
// pattern. Covered by tests/rules/written_oracle_test.cpp.
#include <algorithm>
#include <array>
#include <optional>

#include "core/columns/civil.h"
#include "core/rules/moment_template.h"
#include "core/rules/written_words.h"

namespace jollyrow {
namespace {

using F = MomentField;
using NodeKind = MomentNode::Kind;

bool isSpace(char c) { return c == ' ' || (c >= '\t' && c <= '\r'); }
bool isDigit(char c) { return c >= '0' && c <= '9'; }
bool isDigits(F field) {
    switch (field) {
        case F::Era:
        case F::EraDots:
        case F::HalfDay:
        case F::HalfDayDots:
        case F::DayName:
        case F::DayShort:
        case F::MonthName:
        case F::MonthShort:
        case F::Roman:
        case F::ZoneHour:
        case F::ZoneOffset: return false;
        default: return true;
    }
}

/// Years of two and three digits are those nearest to 2020.
std::int64_t fullYear(std::int64_t year) {
    if (year < 70) return year + 2000;
    if (year < 100) return year + 1900;
    if (year < 520) return year + 2000;
    return year < 1000 ? year + 1000 : year;
}

/// What the fields of a text said, each at most one thing.
struct Fields {
    std::optional<std::int64_t> year, month, day, dayOfYear, weekday, week, weekOfMonth, century, julian;
    std::optional<std::int64_t> hour, minute, second, micros, millis, secondOfDay, zoneHour, zoneMinute;
    std::optional<bool> isLate, isBefore;
    int yearDigits = 0, zoneSign = 1;
    bool isHalfDay = false, isIso = false, isGregorian = false;
};

class MomentReader {
  public:
    MomentReader(const MomentTemplate& pattern, std::string_view text) : pattern_(pattern), text_(text) {}

    std::optional<Fields> run() {
        const bool isExact = pattern_.isExact;
        int skipped = 0;
        for (std::size_t n = 0; n < pattern_.nodes.size() && at_ < text_.size(); ++n) {
            const MomentNode& node = pattern_.nodes[n];
            if (!isExact && (node.kind == NodeKind::Field || n == 0)) skipped += skipBlanks();
            if (node.kind == NodeKind::Space || node.kind == NodeKind::Separator) {
                if (isExact) {
                    ++at_;
                } else {
                    --skipped;
                    if (at_ < text_.size() && (isSpace(text_[at_]) || isFieldSeparator(text_[at_]))) {
                        ++at_;
                        ++skipped;
                    }
                }
                continue;
            }
            if (node.kind == NodeKind::Text) {
                if (!isExact && skipped > 0)
                    --skipped;
                else
                    at_ += node.text.size();
                continue;
            }
            skipped_ = skipped;
            if (!field(node, n)) return std::nullopt;
            if (!isExact) skipped = skipBlanks();
        }
        return fields_;
    }

  private:
    int skipBlanks() {
        int count = 0;
        for (; at_ < text_.size() && isSpace(text_[at_]); ++at_) ++count;
        return count;
    }
    /// Does a number that stands at this node end where its digits end?
    bool endsItself(std::size_t n) const {
        const MomentNode& node = pattern_.nodes[n];
        if (!node.isFilled || node.isOrdinal || n + 1 == pattern_.nodes.size()) return true;
        const MomentNode& next = pattern_.nodes[n + 1];
        if (next.kind == NodeKind::Field) return !isDigits(next.field);
        return next.text.empty() || !isDigit(next.text[0]);
    }

    /// Digits, at most `width` of them unless they end themselves; `used` says how many.
    std::optional<std::int64_t> number(std::size_t n, std::size_t width, std::size_t* used = nullptr) {
        skipBlanks();
        const std::size_t from = at_;
        const bool isOpen = endsItself(n);
        if (!isOpen && text_.size() - at_ < width) return std::nullopt;
        const std::size_t end = isOpen ? text_.size() : at_ + width;
        const bool isNegative = at_ < end && text_[at_] == '-';
        if (at_ < end && (text_[at_] == '-' || text_[at_] == '+')) ++at_;
        std::int64_t value = 0;
        const std::size_t digits = at_;
        for (; at_ < end && isDigit(text_[at_]); ++at_) {
            value = value * 10 + (text_[at_] - '0');
            constexpr std::int64_t kMost = 2'147'483'647;
            if (value > kMost) return std::nullopt;
        }
        if (at_ == digits || (!isOpen && at_ < end)) return std::nullopt;
        if (used) *used = at_ - from;
        const MomentNode& node = pattern_.nodes[n];
        const bool isThousands = node.field == F::YearComma && at_ < text_.size() && text_[at_] == ',';
        if (node.isOrdinal && !isThousands) at_ = std::min(at_ + 2, text_.size());
        return isNegative ? -value : value;
    }
    template <class T>
    static bool put(std::optional<T>& into, const std::optional<T>& value) {
        if (!value || (into && *into != *value)) return false;
        into = value;
        return true;
    }
    bool gregorian(bool done) {
        fields_.isGregorian = true;
        return done && !fields_.isIso;
    }
    bool iso(bool done) {
        fields_.isIso = true;
        return done && !fields_.isGregorian;
    }
    /// Which of some words comes next, in any case.
    template <std::size_t N>
    std::optional<std::size_t> word(const std::array<std::string_view, N>& words, std::size_t letters = 0) {
        std::optional<std::size_t> found;
        std::size_t longest = 0;
        for (std::size_t i = 0; i < N; ++i) {
            const std::string_view wanted = letters == 0 ? words[i] : words[i].substr(0, letters);
            const std::string_view have = text_.substr(at_, wanted.size());
            const auto lower = [](char c) { return c >= 'A' && c <= 'Z' ? static_cast<char>(c + 32) : c; };
            const bool isIt =
                have.size() == wanted.size() && std::equal(have.begin(), have.end(), wanted.begin(),
                                                           [&](char a, char b) { return lower(a) == lower(b); });
            if (isIt && wanted.size() > longest) {
                found = i;
                longest = wanted.size();
            }
        }
        at_ += longest;
        return found;
    }

    bool field(const MomentNode& node, std::size_t n) {
        switch (node.field) {
            case F::Year:
            case F::YearComma:
            case F::IsoYear: return year(node, n);
            case F::Century: return put(fields_.century, number(n, 2));
            case F::Month: return gregorian(put(fields_.month, number(n, 2)));
            case F::Day: return gregorian(put(fields_.day, number(n, 2)));
            case F::DayOfYear: return gregorian(put(fields_.dayOfYear, number(n, 3)));
            case F::IsoDayOfYear: return iso(put(fields_.dayOfYear, number(n, 3)));
            case F::Week: return gregorian(put(fields_.week, number(n, 2)));
            case F::IsoWeek: return iso(put(fields_.week, number(n, 2)));
            case F::WeekOfMonth: return gregorian(put(fields_.weekOfMonth, number(n, 1)));
            case F::Julian: return put(fields_.julian, number(n, 7));
            case F::Quarter: return number(n, 1).has_value();  // says nothing that the rest does not
            case F::DayOfWeek: {
                const auto day = number(n, 1);
                return day && *day >= 1 && *day <= 7;
            }
            case F::IsoDayOfWeek: {
                const auto day = number(n, 1);
                return iso(day && *day >= 1 && *day <= 7 && put(fields_.weekday, day));
            }
            case F::MonthName:
            case F::MonthShort:
            case F::Roman:
            case F::DayName:
            case F::DayShort: return names(node.field);
            case F::Era:
            case F::EraDots:
            case F::HalfDay:
            case F::HalfDayDots: return halves(node.field);
            default: return time(node, n);
        }
    }

    bool year(const MomentNode& node, std::size_t n) {
        std::size_t used = 0;
        std::optional<std::int64_t> value;
        if (node.field == F::YearComma) {
            const auto thousands = number(n, 1);
            if (!thousands || at_ >= text_.size() || text_[at_] != ',') return false;
            ++at_;
            const auto rest = number(n, 3);
            value = rest ? std::optional(*thousands * 1000 + *rest) : std::nullopt;
        } else {
            value = number(n, node.digits, &used);
            if (value && node.digits < 4 && used < 4) value = fullYear(*value);
        }
        fields_.yearDigits = node.field == F::YearComma ? 4 : node.digits;
        const bool isPut = put(fields_.year, value);
        return node.field == F::IsoYear ? iso(isPut) : gregorian(isPut);
    }

    bool names(F field) {
        skipBlanks();
        if (field == F::Roman) {
            const auto month = word(kRomanMonths);
            return gregorian(month && put(fields_.month, std::optional(static_cast<std::int64_t>(*month) + 1)));
        }
        if (field == F::DayName || field == F::DayShort)
            return word(kDayNames, field == F::DayShort ? 3 : 0).has_value();
        const auto month = word(kMonthNames, field == F::MonthShort ? 3 : 0);
        return gregorian(month && put(fields_.month, std::optional(static_cast<std::int64_t>(*month) + 1)));
    }

    bool halves(F field) {
        static constexpr std::array<std::string_view, 2> kEra = {"AD", "BC"}, kEraDots = {"A.D.", "B.C."};
        static constexpr std::array<std::string_view, 2> kHalf = {"AM", "PM"}, kHalfDots = {"A.M.", "P.M."};
        const bool isEra = field == F::Era || field == F::EraDots;
        const bool hasDots = field == F::EraDots || field == F::HalfDayDots;
        const auto which = word(isEra ? (hasDots ? kEraDots : kEra) : (hasDots ? kHalfDots : kHalf));
        if (!isEra) fields_.isHalfDay = true;
        return which && put(isEra ? fields_.isBefore : fields_.isLate, std::optional(*which == 1));
    }

    bool time(const MomentNode& node, std::size_t n) {
        switch (node.field) {
            case F::Hour12: fields_.isHalfDay = true; return put(fields_.hour, number(n, 2));
            case F::Hour24: return put(fields_.hour, number(n, 2));
            case F::Minute: return put(fields_.minute, number(n, 2));
            case F::Second: return put(fields_.second, number(n, 2));
            case F::SecondOfDay: return put(fields_.secondOfDay, number(n, 5));
            case F::Fraction: {
                std::size_t used = 0;
                auto value = number(n, node.digits, &used);
                if (!value || used > node.digits) return false;
                for (std::size_t digits = used; digits < 6; ++digits) *value *= 10;
                return put(node.digits == 3 ? fields_.millis : fields_.micros, value);
            }
            case F::ZoneHour: {
                // A separator of the pattern may have taken the sign for its own.
                const char sign = text_[at_];
                const bool isTaken = skipped_ > 0 && at_ > 0 && text_[at_ - 1] == '-';
                const bool hasSign = sign == '+' || sign == '-' || sign == ' ';
                if (hasSign) ++at_;
                fields_.zoneSign = sign == '-' || (!hasSign && isTaken) ? -1 : 1;
                return put(fields_.zoneHour, number(n, 2));
            }
            case F::ZoneMinute: return put(fields_.zoneMinute, number(n, 2));
            default: return false;  // names of zones and OF are only written
        }
    }

    const MomentTemplate& pattern_;
    std::string_view text_;
    std::size_t at_ = 0;
    int skipped_ = 0;  ///< characters more than the pattern has, before the field in hand
    Fields fields_;
};

std::optional<std::int32_t> dayOf(Fields& f) {
    if (f.julian) {
        constexpr std::int64_t kOfEpoch = 2'440'588, kMost = 5'373'484;
        if (*f.julian < 0 || *f.julian > kMost) return std::nullopt;
        const auto days = static_cast<std::int32_t>(*f.julian - kOfEpoch);
        const CivilDate date = civilFromDays(days);
        return daysFromCivil(date);
    }
    if (f.isBefore.value_or(false)) return std::nullopt;  // years begin with 1
    std::optional<std::int64_t> year = f.year;
    if (f.century && year && f.yearDigits <= 2)
        year = *year % 100 == 0 ? *f.century * 100 : (*f.century - 1) * 100 + *year % 100;
    else if (f.century && !year)
        year = (*f.century - 1) * 100 + 1;
    if (!year || *year < 1 || *year > 9999) return std::nullopt;
    const int y = static_cast<int>(*year);
    if (f.isIso) {
        // The week that has the fourth of January is the first.
        const std::int32_t fourth = *daysFromCivil({y, 1, 4});
        const std::int32_t monday = fourth - isoWeekday(fourth) + 1;
        if (f.dayOfYear) return monday + static_cast<std::int32_t>(*f.dayOfYear) - 1;
        if (f.week) return monday + static_cast<std::int32_t>((*f.week - 1) * 7 + f.weekday.value_or(1) - 1);
        return daysFromCivil({y, 1, 1});
    }
    if (f.week) f.dayOfYear = (*f.week - 1) * 7 + 1;
    if (f.weekOfMonth) f.day = (*f.weekOfMonth - 1) * 7 + 1;
    if (f.dayOfYear && f.month.value_or(1) <= 1 && f.day.value_or(1) <= 1) {
        const std::int32_t first = *daysFromCivil({y, 1, 1}), last = *daysFromCivil({y, 12, 31});
        if (*f.dayOfYear < 1 || *f.dayOfYear > last - first + 1) return std::nullopt;
        return first + static_cast<std::int32_t>(*f.dayOfYear) - 1;
    }
    const std::int64_t month = f.month.value_or(1), day = f.day.value_or(1);
    if (month < 1 || month > 12 || day < 1 || day > 31) return std::nullopt;
    return daysFromCivil({y, static_cast<unsigned>(month), static_cast<unsigned>(day)});
}

std::optional<std::int64_t> timeOf(Fields& f) {
    if (f.secondOfDay) {
        if (*f.secondOfDay < 0 || *f.secondOfDay >= 86400) return std::nullopt;
        f.hour = *f.secondOfDay / 3600;
        f.minute = *f.secondOfDay / 60 % 60;
        f.second = *f.secondOfDay % 60;
    }
    std::int64_t hour = f.hour.value_or(0);
    if (f.isHalfDay && f.hour) {
        if (hour < 1 || hour > 12) return std::nullopt;
        hour = hour % 12 + (f.isLate.value_or(false) ? 12 : 0);
    }
    const std::int64_t minute = f.minute.value_or(0), second = f.second.value_or(0);
    if (hour < 0 || hour > 23 || minute < 0 || minute > 59 || second < 0 || second > 59) return std::nullopt;
    constexpr std::int64_t kSecond = 1'000'000;
    return ((hour * 60 + minute) * 60 + second) * kSecond + f.millis.value_or(0) + f.micros.value_or(0);
}

}  // namespace

std::optional<ReadMoment> read(const MomentTemplate& pattern, std::string_view text) {
    auto fields = MomentReader(pattern, text).run();
    if (!fields) return std::nullopt;
    const auto day = dayOf(*fields);
    const auto time = timeOf(*fields);
    if (!day || !time) return std::nullopt;
    ReadMoment moment{*day * kMicrosPerDay + *time, {}};
    if (fields->zoneHour || fields->zoneMinute) {
        const std::int64_t hours = fields->zoneHour.value_or(0), rest = fields->zoneMinute.value_or(0);
        const std::int64_t minutes = hours * 60 + rest;
        if (hours < 0 || hours > 15 || rest < 0 || rest > 59) return std::nullopt;
        moment.offset = fields->zoneSign * minutes * 60'000'000;
    }
    return moment;
}

}  // namespace jollyrow
