// SPDX-License-Identifier: MIT
// The pattern says how many digits stand before and behind the point; the number is rounded to it, and written digit
// by digit into the pattern's places. Covered by tests/rules/written_oracle_test.cpp.
#include "core/rules/number_template.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cstdlib>

#include "core/rules/written_words.h"

namespace jollyrow {
namespace {

using Part = NumberNode::Kind;

class NumberPatternReader {
  public:
    explicit NumberPatternReader(std::string_view text) : text_(text) {}

    std::optional<NumberTemplate> run() {
        while (at_ < text_.size()) {
            if (text_[at_] == '"') {
                quoted();
            } else if (!word()) {
                if (text_[at_] == '\\' && text_.substr(at_ + 1, 1) == "\"") ++at_;
                add(Part::Text, text_.substr(at_++, 1));
            }
            if (isWrong_) return std::nullopt;
        }
        // S that was the first thing stands before.
        return std::move(made_);
    }

  private:
    void add(Part kind, std::string_view text = {}) { made_.nodes.push_back({kind, std::string(text)}); }
    void quoted() {
        for (++at_; at_ < text_.size() && text_[at_] != '"'; ++at_) {
            if (text_[at_] == '\\' && at_ + 1 < text_.size()) ++at_;
            add(Part::Text, text_.substr(at_, 1));
        }
        ++at_;
    }
    bool is(std::string_view upper) {
        const std::string_view have = text_.substr(at_, upper.size());
        const auto same = [&](int shift) {
            return have.size() == upper.size() &&
                   std::equal(have.begin(), have.end(), upper.begin(), [&](char a, char b) {
                       return a == (b >= 'A' && b <= 'Z' ? static_cast<char>(b + shift) : b);
                   });
        };
        isLower_ = !same(0);
        return same(0) || same('a' - 'A');
    }

    bool word() {
        static constexpr std::array<std::string_view, 20> kWords = {"EEEE", "FM", "MI", "PL", "PR", "RN", "SG",
                                                                    "SP",   "TH", ",",  ".",  "0",  "9",  "B",
                                                                    "D",    "G",  "L",  "S",  "V",  "C"};
        const auto* const found =
            std::find_if(kWords.begin(), kWords.end(), [&](std::string_view word) { return is(word); });
        if (found == kWords.end() || *found == "C") return false;
        const bool isLower = isLower_;
        at_ += found->size();
        if (*found == "9" || *found == "0") digit(*found == "0");
        if (*found == "D" || *found == ".") point();
        if (*found == "G" || *found == ",") add(Part::Comma);
        if (*found == "FM") made_.isBare = true;
        if (*found == "EEEE") made_.isScientific = true;
        if (*found == "RN") {
            made_.isRoman = true;
            add(isLower ? Part::RomanLower : Part::Roman);
        }
        if (*found == "TH") add(isLower ? Part::OrdinalLower : Part::Ordinal);
        if (*found == "L") add(Part::Currency);
        if (*found == "V") {
            if (made_.hasPoint) isWrong_ = true;
            isShifting_ = true;
        }
        if (*found == "PR") {
            if (made_.sign != NumberTemplate::SignAt::Unstated || made_.hasPlus || made_.hasMinus) isWrong_ = true;
            made_.isBracketed = true;
        }
        signs(*found);
        return true;
    }

    void signs(std::string_view word) {
        const bool isS = word == "S";
        if (!isS && word != "MI" && word != "PL" && word != "SG") return;
        if (made_.isBracketed || made_.sign != NumberTemplate::SignAt::Unstated) isWrong_ = true;
        if (isS) {
            if (made_.hasMinus || made_.hasPlus) isWrong_ = true;
            made_.sign = made_.hasPoint ? NumberTemplate::SignAt::Behind : NumberTemplate::SignAt::Before;
            made_.digitsAtSign = made_.before;
            return;
        }
        made_.hasMinus = made_.hasMinus || word != "PL";
        made_.hasPlus = made_.hasPlus || word != "MI";
        add(word == "MI" ? Part::Minus : word == "PL" ? Part::Plus : Part::Sign);
    }

    void digit(bool isZero) {
        if (made_.isBracketed) isWrong_ = true;
        if (isZero && made_.zeroFrom == 0 && !made_.hasPoint) made_.zeroFrom = made_.before + 1;
        if (made_.hasPoint)
            ++made_.behind;
        else if (isShifting_ && !isZero)
            ++made_.shifted;
        else
            ++made_.before;
        if (made_.behind > WideDecimal::kMaxScale || made_.shifted > WideDecimal::kMaxScale) isWrong_ = true;
        if (isZero) made_.zeroTo = made_.before + made_.behind;
        add(isZero ? Part::Zero : Part::Nine);
    }
    void point() {
        if (made_.hasPoint || isShifting_) isWrong_ = true;
        made_.hasPoint = true;
        add(Part::Point);
    }

    std::string_view text_;
    std::size_t at_ = 0;
    NumberTemplate made_;
    bool isLower_ = false, isShifting_ = false, isWrong_ = false;
};

class NumberWriter {
  public:
    NumberWriter(const NumberTemplate& pattern, std::string digits, bool isNegative)
        : pattern_(pattern), digits_(std::move(digits)), sign_(isNegative ? '-' : '+'), signAt_(pattern.sign) {
        const auto whole = static_cast<int>(std::min(digits_.find('.'), digits_.size()));
        const int room = pattern_.before + pattern_.shifted;
        isTooLong_ = whole > room;
        blanks_ = std::max(0, room - whole);
        if (isTooLong_) {
            digits_.assign(static_cast<std::size_t>(room), '#');
            digits_.append(".").append(static_cast<std::size_t>(pattern_.behind), '#');
        }
        settleSign();
        if (pattern_.isBare && pattern_.hasPoint) settleEnd();
        places_ = pattern_.behind + room - 1 + (!isSignWritten_ && blanks_ == 0 ? 1 : 0);
    }

    std::string run() {
        for (const NumberNode& node : pattern_.nodes) write(node);
        out_.resize(std::min(cut_, out_.size()));
        return std::move(out_);
    }

  private:
    void settleSign() {
        if (pattern_.hasPlus || pattern_.hasMinus) {
            isSignWritten_ = !pattern_.hasPlus || pattern_.hasMinus;
        } else {
            const bool hasBrackets = isBracketed() && !(sign_ == '+' && pattern_.isBare);
            isBracketed_ = hasBrackets;
            isSignWritten_ = sign_ == '+' && pattern_.isBare && signAt_ == NumberTemplate::SignAt::Unstated;
            if (signAt_ == NumberTemplate::SignAt::Before && pattern_.before == pattern_.digitsAtSign)
                signAt_ = NumberTemplate::SignAt::Behind;
        }
    }
    bool isBracketed() const { return pattern_.isBracketed; }
    /// The last digit that says something: zeros behind it are left out, but for those that a 0 asks for.
    void settleEnd() {
        const std::size_t point = digits_.find('.');
        if (point == std::string::npos) return;
        std::size_t last = point;
        for (std::size_t i = point + 1; i < digits_.size(); ++i)
            if (digits_[i] != '0') last = i;
        if (pattern_.zeroTo > blanks_) {
            const auto asked = std::min(digits_.size() - 1, static_cast<std::size_t>(pattern_.zeroTo - blanks_));
            last = std::max(last, asked);
        }
        end_ = last;
    }
    bool endsAtPoint() const { return end_ && digits_[*end_] == '.'; }
    /// The 0 before a point that no 0 of the pattern asks for.
    bool isSilentZero() const {
        return pattern_.zeroFrom == 0 && at_ == 0 && !digits_.empty() && digits_[0] == '0' && pattern_.behind != 0;
    }

    void write(const NumberNode& node) {
        switch (node.kind) {
            case Part::Nine:
            case Part::Zero:
            case Part::Point: return digit(node.kind == Part::Zero);
            case Part::Comma:
            case Part::Currency:
                if (node.kind == Part::Comma && isInside_)
                    out_ += ',';
                else if (node.kind == Part::Currency || !pattern_.isBare)
                    out_ += ' ';
                return;
            case Part::Ordinal:
            case Part::OrdinalLower:
                if (!isTooLong_ && sign_ != '-' && !pattern_.hasPoint)
                    out_ += ordinalEnding(digits_, node.kind == Part::OrdinalLower);
                return;
            case Part::Minus:
                if (sign_ == '-' || !pattern_.isBare) out_ += sign_ == '-' ? '-' : ' ';
                return;
            case Part::Plus:
                if (sign_ == '+' || !pattern_.isBare) out_ += sign_ == '+' ? '+' : ' ';
                return;
            case Part::Sign: out_ += sign_; return;
            default: out_ += node.text; return;
        }
    }

    void signBeforeDigit() {
        const bool isDue = place_ >= blanks_ || (pattern_.zeroFrom != 0 && pattern_.zeroFrom - 1 == place_);
        if (isSignWritten_ || !isDue || (isSilentZero() && !endsAtPoint())) return;
        if (signAt_ != NumberTemplate::SignAt::Unstated) {
            if (signAt_ != NumberTemplate::SignAt::Before) return;
            out_ += sign_;
        } else if (isBracketed_) {
            out_ += sign_ == '+' ? ' ' : '<';
        } else if (sign_ == '-' || !pattern_.isBare) {
            out_ += sign_ == '+' ? ' ' : '-';
        }
        isSignWritten_ = true;
    }

    void digit(bool isZero) {
        isInside_ = false;
        signBeforeDigit();
        const bool isLead = place_ < blanks_;
        const bool showsZero = pattern_.zeroFrom != 0 && pattern_.zeroFrom - 1 <= place_;
        if (isLead && !showsZero) {
            if (!pattern_.isBare) out_ += ' ';
        } else if (isLead) {
            out_ += '0';
            isInside_ = true;
        } else {
            number(isZero);
        }
        int last = places_ + (blanks_ > 0 ? 1 : 0) + (pattern_.hasPoint ? 1 : 0);
        if (end_ && *end_ == at_) last = place_;
        if (place_ + 1 == last) {
            if (isSignWritten_ && isBracketed_)
                out_ += sign_ == '+' ? ' ' : '>';
            else if (signAt_ == NumberTemplate::SignAt::Behind)
                out_ += sign_;
        }
        ++place_;
    }
    /// The next character of the number, into its place.
    void number(bool isZero) {
        const char c = at_ < digits_.size() ? digits_[at_] : '\0';
        if (c == '.') {
            out_ += '.';
        } else if (end_ && at_ > *end_ && !isZero) {
            // says nothing
        } else if (isSilentZero()) {
            if (!pattern_.isBare)
                out_ += ' ';
            else if (endsAtPoint())
                out_ += '0';
        } else if (c != '\0') {
            out_ += c;
            isInside_ = true;
        } else if (!end_ || *end_ >= at_ || isZero) {
            // A point without digits behind it: the server ends the text there.
            cut_ = std::min(cut_, out_.size());
        }
        if (c != '\0') ++at_;
    }

    const NumberTemplate& pattern_;
    std::string digits_;
    char sign_;
    NumberTemplate::SignAt signAt_;
    bool isTooLong_ = false, isSignWritten_ = false, isBracketed_ = false, isInside_ = false;
    int blanks_ = 0, place_ = 0, places_ = 0;
    std::size_t at_ = 0;
    std::optional<std::size_t> end_;
    std::string out_;
    std::size_t cut_ = std::string::npos;
};

std::string roman(std::int64_t value, bool isBare, bool isLower) {
    static constexpr std::array<std::pair<int, std::string_view>, 13> kParts = {{{1000, "M"},
                                                                                 {900, "CM"},
                                                                                 {500, "D"},
                                                                                 {400, "CD"},
                                                                                 {100, "C"},
                                                                                 {90, "XC"},
                                                                                 {50, "L"},
                                                                                 {40, "XL"},
                                                                                 {10, "X"},
                                                                                 {9, "IX"},
                                                                                 {5, "V"},
                                                                                 {4, "IV"},
                                                                                 {1, "I"}}};
    if (value < 1 || value > 3999) return std::string(15, '#');
    std::string out;
    for (const auto& [worth, letters] : kParts)
        for (; value >= worth; value -= worth) out += letters;
    if (isLower)
        for (char& c : out) c = static_cast<char>(c - 'A' + 'a');
    return isBare ? out : fmt::format("{:>15}", out);
}

/// 1.23e+04, with so many decimals.
std::optional<std::string> scientific(const NumberTemplate& pattern, const WideDecimal& value) {
    const bool isNegative = value.mantissa < 0;
    WideDecimal size{isNegative ? -value.mantissa : value.mantissa, value.scale};
    int exponent = 0;
    if (size.mantissa != 0) {
        std::string digits = toString(WideDecimal{size.mantissa, 0});
        exponent = static_cast<int>(digits.size()) - 1 - size.scale;
        size.scale = static_cast<int>(digits.size()) - 1;
    }
    auto shown = rounded(size, pattern.behind);  // 9.995 becomes 10.00, as on the server
    if (!shown) return std::nullopt;
    if (shown->scale < pattern.behind) shown = rescaledExactly(*shown, pattern.behind);
    if (!shown) return std::nullopt;
    return fmt::format("{}{}e{}{:02}", isNegative ? "-" : " ", toString(*shown), exponent < 0 ? '-' : '+',
                       std::abs(exponent));
}

/// What TO_NUMBER makes of a text: the pattern says what stands where, and what does not fit it is passed over.
class NumberReader {
  public:
    NumberReader(const NumberTemplate& pattern, std::string_view text) : pattern_(pattern), text_(text) {}

    std::optional<WideDecimal> run() {
        for (const NumberNode& node : pattern_.nodes) {
            if (at_ >= text_.size()) break;
            if (take(node)) ++at_;
        }
        if (whole_.empty() && behind_.empty()) return std::nullopt;
        // More digits before the point than the pattern has are too many.
        const std::size_t zeros = std::min(whole_.find_first_not_of('0'), whole_.size());
        const int most = pattern_.before + pattern_.shifted;
        if (whole_.size() - zeros > static_cast<std::size_t>(most)) return std::nullopt;
        auto value = parseWideDecimal(fmt::format("{}{}.{}", isNegative_ ? "-" : "", whole_, behind_));
        if (value && pattern_.shifted > 0) value = divided(*value, {widePower(pattern_.shifted), 0});
        return value;
    }

  private:
    /// True when the character that comes next is done with.
    bool take(const NumberNode& node) {
        const char c = text_[at_];
        switch (node.kind) {
            case Part::Nine:
            case Part::Zero:
            case Part::Point: return digit();
            case Part::Comma: return c == ',' && (!whole_.empty() || !pattern_.isBare);
            case Part::Minus:
            case Part::Sign:
            case Part::Plus:
                if (c == '-' && node.kind != Part::Plus) isNegative_ = true;
                return (c == '-' && node.kind != Part::Plus) || (c == '+' && node.kind != Part::Minus) ||
                       (!isData(c) && node.kind != Part::Sign) || c == ' ';
            default: return !isData(c);
        }
    }
    static bool isData(char c) { return (c >= '0' && c <= '9') || c == '.' || c == ',' || c == '-' || c == '+'; }

    bool digit() {
        if (text_[at_] == ' ') ++at_;
        if (at_ >= text_.size()) return false;
        if (!hasSign_ && whole_.empty() && behind_.empty() && !isBehind_) {
            const char sign = text_[at_];
            if (sign == '-' || sign == '+' || (pattern_.isBracketed && sign == '<')) {
                isNegative_ = isNegative_ || sign != '+';
                hasSign_ = true;
                ++at_;
            }
        }
        if (at_ >= text_.size()) return false;
        const char c = text_[at_];
        bool isTaken = false;
        if (c >= '0' && c <= '9') {
            if (isBehind_ && behind_.size() == static_cast<std::size_t>(pattern_.behind)) return false;
            (isBehind_ ? behind_ : whole_) += c;
            isTaken = true;
        } else if (c == '.' && pattern_.hasPoint && !isBehind_) {
            isBehind_ = true;
            isTaken = true;
        }
        // A sign behind the last digit: S stands at it, MI and its like somewhere behind.
        const bool isS = pattern_.sign != NumberTemplate::SignAt::Unstated;
        const bool isStated = pattern_.hasMinus || pattern_.hasPlus;
        const std::size_t sign = at_ + (isTaken ? 1 : 0);
        if (!hasSign_ && (isS ? isTaken : isStated && !isTaken) && sign < text_.size() &&
            (text_[sign] == '-' || text_[sign] == '+')) {
            isNegative_ = text_[sign] == '-';
            hasSign_ = true;
            at_ = sign;
        }
        return true;
    }

    const NumberTemplate& pattern_;
    std::string_view text_;
    std::size_t at_ = 0;
    std::string whole_, behind_;
    bool isBehind_ = false, isNegative_ = false, hasSign_ = false;
};

}  // namespace

std::optional<NumberTemplate> numberTemplate(std::string_view pattern) { return NumberPatternReader(pattern).run(); }

std::optional<std::string> write(const NumberTemplate& pattern, const WideDecimal& value, bool isNegative) {
    if (pattern.isRoman) {
        const auto whole = toInteger(value);
        std::string out;
        for (const NumberNode& node : pattern.nodes) {
            if (node.kind == Part::Roman || node.kind == Part::RomanLower)
                out += roman(whole.value_or(0), pattern.isBare, node.kind == Part::RomanLower);
            else if (node.kind == Part::Text)
                out += node.text;
        }
        return out;
    }
    if (pattern.isScientific) return scientific(pattern, value);
    auto shown = pattern.shifted > 0 ? multiplied(value, {widePower(pattern.shifted), 0}) : std::optional(value);
    if (shown) shown = rounded(*shown, pattern.behind);
    if (shown && shown->scale < pattern.behind) shown = rescaledExactly(*shown, pattern.behind);
    if (!shown) return std::nullopt;
    // One that is rounded to nothing has no sign, unless it came without digits.
    if (value.mantissa != 0) isNegative = shown->mantissa < 0;
    if (shown->mantissa < 0) shown->mantissa = -shown->mantissa;
    return NumberWriter(pattern, toString(*shown), isNegative).run();
}

std::optional<WideDecimal> readNumber(const NumberTemplate& pattern, std::string_view text) {
    if (pattern.isScientific || pattern.isRoman) return std::nullopt;
    return NumberReader(pattern, text).run();
}

}  // namespace jollyrow
