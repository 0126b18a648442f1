// SPDX-License-Identifier: MIT
// TO_CHAR of moments and spans. Covered by tests/rules/written_oracle_test.cpp.
#include <fmt/format.h>

#include <cstdlib>

#include "core/columns/civil.h"
#include "core/rules/moment_template.h"
#include "core/rules/written_words.h"

namespace jollyrow {
namespace {

using F = MomentField;

std::string inCase(std::string_view name, LetterCase letters) {
    std::string out(name);
    for (std::size_t i = 0; i < out.size(); ++i) {
        const bool isLower = letters == LetterCase::Lower || (letters == LetterCase::Capital && i > 0);
        const bool isUpperLetter = out[i] >= 'A' && out[i] <= 'Z', isLowerLetter = out[i] >= 'a' && out[i] <= 'z';
        if (isLower && isUpperLetter) out[i] = static_cast<char>(out[i] - 'A' + 'a');
        if (!isLower && isLowerLetter) out[i] = static_cast<char>(out[i] - 'a' + 'A');
    }
    return out;
}

class MomentWriter {
  public:
    explicit MomentWriter(const MomentParts& parts) : parts_(parts) {
        if (parts.isSpan) return;
        days_ = *daysFromCivil(
            {static_cast<int>(parts.year), static_cast<unsigned>(parts.month), static_cast<unsigned>(parts.day)});
        dayOfYear_ = days_ - *daysFromCivil({static_cast<int>(parts.year), 1, 1}) + 1;
        weekday_ = isoWeekday(days_);
        const std::int32_t thursday = days_ - weekday_ + 4;  // its year is the week's
        isoYear_ = civilFromDays(thursday).year;
        isoWeek_ = (thursday - *daysFromCivil({isoYear_, 1, 1})) / 7 + 1;
    }

    std::optional<std::string> run(const MomentTemplate& pattern) {
        for (const MomentNode& node : pattern.nodes) {
            if (node.kind != MomentNode::Kind::Field) {
                out_ += node.text;
                continue;
            }
            if (parts_.isSpan && !isOfSpan(node.field)) return std::nullopt;
            field(node);
        }
        return std::move(out_);
    }

  private:
    static bool isOfSpan(F field) {
        switch (field) {
            case F::Era:
            case F::EraDots:
            case F::DayName:
            case F::DayShort:
            case F::DayOfWeek:
            case F::IsoDayOfWeek:
            case F::MonthName:
            case F::MonthShort:
            case F::ZoneHour:
            case F::ZoneMinute:
            case F::ZoneOffset:
            case F::IsoDayOfYear:
            case F::DayOfYear:
            case F::IsoWeek:
            case F::IsoYear: return false;
            default: return true;
        }
    }

    void number(const MomentNode& node, std::int64_t value, int width) {
        const std::string digits = node.isFilled ? fmt::format("{:0{}}", value, width) : fmt::format("{}", value);
        out_ += digits;
        if (node.isOrdinal) out_ += ordinalEnding(digits, node.isOrdinalLower);
    }
    void name(const MomentNode& node, std::string_view word, std::size_t width) {
        const std::string cased = inCase(word, node.letters);
        out_ += node.isFilled ? fmt::format("{:<{}}", cased, width) : cased;
    }

    void field(const MomentNode& node) {
        switch (node.field) {
            case F::Hour12:
            case F::Hour24:
            case F::Minute:
            case F::Second:
            case F::Fraction:
            case F::SecondOfDay:
            case F::HalfDay:
            case F::HalfDayDots: return time(node);
            case F::ZoneHour:
            case F::ZoneMinute:
            case F::ZoneOffset: return zone(node);
            case F::Year:
            case F::YearComma:
            case F::IsoYear:
            case F::Century: return year(node);
            default: return day(node);
        }
    }

    void time(const MomentNode& node) {
        const std::int64_t hour = parts_.hour;
        switch (node.field) {
            case F::Hour12: {
                // The sign of a span has its place though 12 has none.
                const std::int64_t shown = hour % 12 == 0 ? 12 : hour % 12;
                return number(node, shown, hour < 0 ? 3 : 2);
            }
            // The sign of a time takes a place of its own.
            case F::Hour24: return number(node, hour, hour < 0 ? 3 : 2);
            case F::Minute: return number(node, parts_.minute, parts_.minute < 0 ? 3 : 2);
            case F::Second: return number(node, parts_.second, parts_.second < 0 ? 3 : 2);
            case F::Fraction: {
                int part = parts_.micros;
                for (int digits = node.digits; digits < 6; ++digits) part /= 10;
                MomentNode filled = node;  // its zeros are digits
                filled.isFilled = true;
                return number(filled, part, node.digits);
            }
            case F::SecondOfDay: return number(node, hour * 3600 + parts_.minute * 60 + parts_.second, 1);
            default: {
                const bool isLate = hour % 24 >= 12, hasDots = node.field == F::HalfDayDots;
                out_ += inCase(hasDots ? (isLate ? "P.M." : "A.M.") : (isLate ? "PM" : "AM"), node.letters);
            }
        }
    }

    void zone(const MomentNode& node) {
        const std::int64_t size = std::abs(parts_.offset);
        const char sign = parts_.offset < 0 ? '-' : '+';
        switch (node.field) {
            case F::ZoneHour: out_ += fmt::format("{}{:02}", sign, size / 3600); return;
            case F::ZoneMinute: out_ += fmt::format("{:02}", size / 60 % 60); return;
            default:
                out_ +=
                    node.isFilled ? fmt::format("{}{:02}", sign, size / 3600) : fmt::format("{}{}", sign, size / 3600);
                if (size % 3600 != 0) out_ += fmt::format(":{:02}", size / 60 % 60);
        }
    }

    void year(const MomentNode& node) {
        const std::int64_t year = parts_.year;
        switch (node.field) {
            case F::YearComma: {
                const std::string digits = fmt::format("{},{:03}", year / 1000, std::abs(year % 1000));
                out_ += digits;
                if (node.isOrdinal) out_ += ordinalEnding(digits, node.isOrdinalLower);
                return;
            }
            case F::Century: return number(node, parts_.isSpan ? year / 100 : (year - 1) / 100 + 1, 2);
            default: {
                std::int64_t shown = node.field == F::IsoYear ? isoYear_ : year;
                if (node.digits < 4)
                    for (std::int64_t power : {std::int64_t{1000}, std::int64_t{100}, std::int64_t{10}})
                        if ((power == 1000) || (power == 100 && node.digits <= 2) || (power == 10 && node.digits == 1))
                            shown %= power;
                return number(node, shown, node.digits);
            }
        }
    }

    void day(const MomentNode& node) {
        switch (node.field) {
            case F::Era:
            case F::EraDots: out_ += inCase(node.field == F::Era ? "AD" : "A.D.", node.letters); return;
            case F::MonthName: return name(node, kMonthNames[static_cast<std::size_t>(parts_.month - 1)], 9);
            case F::MonthShort:
                return name(node, kMonthNames[static_cast<std::size_t>(parts_.month - 1)].substr(0, 3), 3);
            case F::Month: return number(node, parts_.month, 2);
            case F::Roman:
                // Of a span without months there is none.
                if (parts_.isSpan && parts_.month % 12 == 0 && parts_.year == 0) return;
                return name(node, kRomanMonths[static_cast<std::size_t>((std::abs(parts_.month) + 11) % 12)], 4);
            case F::DayName: return name(node, kDayNames[static_cast<std::size_t>(weekday_ % 7)], 9);
            case F::DayShort: return name(node, kDayNames[static_cast<std::size_t>(weekday_ % 7)].substr(0, 3), 3);
            case F::DayOfYear: return number(node, dayOfYear_, 3);
            case F::Day: return number(node, parts_.day, 2);
            case F::DayOfWeek: return number(node, weekday_ % 7 + 1, 1);
            case F::IsoDayOfWeek: return number(node, weekday_, 1);
            case F::IsoDayOfYear: return number(node, (isoWeek_ - 1) * 7 + weekday_, 3);
            case F::IsoWeek: return number(node, isoWeek_, 2);
            case F::Week: return number(node, ((parts_.isSpan ? parts_.day : dayOfYear_) - 1) / 7 + 1, 2);
            case F::WeekOfMonth: return number(node, (parts_.day - 1) / 7 + 1, 1);
            case F::Quarter:
                if (parts_.month != 0) number(node, (parts_.month - 1) / 3 + 1, 1);
                return;
            default: {  // Julian
                constexpr std::int64_t kOfEpoch = 2'440'588;
                return number(node, days_ + kOfEpoch, 1);
            }
        }
    }

    const MomentParts& parts_;
    std::int32_t days_ = 0;
    int dayOfYear_ = 1, weekday_ = 1, isoYear_ = 1, isoWeek_ = 1;
    std::string out_;
};

}  // namespace

MomentParts partsOfTimestamp(std::int64_t micros) {
    const std::int64_t day = dayOf(micros);
    const std::int64_t rest = micros - day * kMicrosPerDay;
    const CivilDate date = civilFromDays(static_cast<std::int32_t>(day));
    constexpr std::int64_t kSecond = 1'000'000;
    MomentParts parts;
    parts.year = date.year;
    parts.month = static_cast<int>(date.month);
    parts.day = date.day;
    parts.hour = rest / (3600 * kSecond);
    parts.minute = static_cast<int>(rest / (60 * kSecond) % 60);
    parts.second = static_cast<int>(rest / kSecond % 60);
    parts.micros = static_cast<int>(rest % kSecond);
    return parts;
}

std::optional<std::string> write(const MomentTemplate& pattern, const MomentParts& parts) {
    return MomentWriter(parts).run(pattern);
}

}  // namespace jollyrow
