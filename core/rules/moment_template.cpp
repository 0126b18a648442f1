// SPDX-License-Identifier: MIT
// Words are looked for longest first at each place; what is none is a text. Covered by
// tests/rules/written_oracle_test.cpp.
#include "core/rules/moment_template.h"

#include <algorithm>
#include <array>

#include "core/rules/written_words.h"

namespace jollyrow {
namespace {

struct Word {
    std::string_view text;
    MomentField field{};
    std::uint8_t digits = 0;
    LetterCase letters = LetterCase::Upper;
};

using F = MomentField;
// Longer ones before those that they begin with. Where the case says nothing both spellings are known by lowering.
constexpr std::array kCased = std::to_array<Word>({
    {"A.D.", F::EraDots},
    {"a.d.", F::EraDots, 0, LetterCase::Lower},
    {"AD", F::Era},
    {"ad", F::Era, 0, LetterCase::Lower},
    {"B.C.", F::EraDots},
    {"b.c.", F::EraDots, 0, LetterCase::Lower},
    {"BC", F::Era},
    {"bc", F::Era, 0, LetterCase::Lower},
    {"A.M.", F::HalfDayDots},
    {"a.m.", F::HalfDayDots, 0, LetterCase::Lower},
    {"AM", F::HalfDay},
    {"am", F::HalfDay, 0, LetterCase::Lower},
    {"P.M.", F::HalfDayDots},
    {"p.m.", F::HalfDayDots, 0, LetterCase::Lower},
    {"PM", F::HalfDay},
    {"pm", F::HalfDay, 0, LetterCase::Lower},
    {"DAY", F::DayName},
    {"Day", F::DayName, 0, LetterCase::Capital},
    {"day", F::DayName, 0, LetterCase::Lower},
    {"DY", F::DayShort},
    {"Dy", F::DayShort, 0, LetterCase::Capital},
    {"dy", F::DayShort, 0, LetterCase::Lower},
    {"MONTH", F::MonthName},
    {"Month", F::MonthName, 0, LetterCase::Capital},
    {"month", F::MonthName, 0, LetterCase::Lower},
    {"MON", F::MonthShort},
    {"Mon", F::MonthShort, 0, LetterCase::Capital},
    {"mon", F::MonthShort, 0, LetterCase::Lower},
    {"RM", F::Roman},
    {"rm", F::Roman, 0, LetterCase::Lower},
});
constexpr std::array kPlain = std::to_array<Word>({
    {"CC", F::Century},       {"DDD", F::DayOfYear},     {"DD", F::Day},
    {"D", F::DayOfWeek},      {"FF1", F::Fraction, 1},   {"FF2", F::Fraction, 2},
    {"FF3", F::Fraction, 3},  {"FF4", F::Fraction, 4},   {"FF5", F::Fraction, 5},
    {"FF6", F::Fraction, 6},  {"HH24", F::Hour24},       {"HH12", F::Hour12},
    {"HH", F::Hour12},        {"IDDD", F::IsoDayOfYear}, {"ID", F::IsoDayOfWeek},
    {"IW", F::IsoWeek},       {"IYYY", F::IsoYear, 4},   {"IYY", F::IsoYear, 3},
    {"IY", F::IsoYear, 2},    {"I", F::IsoYear, 1},      {"J", F::Julian},
    {"MI", F::Minute},        {"MM", F::Month},          {"MS", F::Fraction, 3},
    {"OF", F::ZoneOffset},    {"Q", F::Quarter},         {"SSSSS", F::SecondOfDay},
    {"SSSS", F::SecondOfDay}, {"SS", F::Second},         {"TZH", F::ZoneHour},
    {"TZM", F::ZoneMinute},   {"US", F::Fraction, 6},    {"WW", F::Week},
    {"W", F::WeekOfMonth},    {"Y,YYY", F::YearComma},   {"YYYY", F::Year, 4},
    {"YYY", F::Year, 3},      {"YY", F::Year, 2},        {"Y", F::Year, 1},
});

std::string lowerOf(std::string_view text) {
    std::string out(text);
    std::transform(out.begin(), out.end(), out.begin(),
                   [](char c) { return c >= 'A' && c <= 'Z' ? static_cast<char>(c - 'A' + 'a') : c; });
    return out;
}

std::optional<Word> wordAt(std::string_view text) {
    for (const Word& word : kCased)
        if (text.starts_with(word.text)) return word;
    for (const Word& word : kPlain) {
        if (text.starts_with(word.text)) return word;
        if (!text.starts_with(lowerOf(word.text))) continue;
        Word lower = word;
        lower.letters = LetterCase::Lower;
        return lower;
    }
    return std::nullopt;
}

class PatternReader {
  public:
    explicit PatternReader(std::string_view text) : text_(text) {}

    std::optional<MomentTemplate> run() {
        while (at_ < text_.size()) {
            const std::string_view rest = text_.substr(at_);
            if (rest.starts_with("TM") || rest.starts_with("tm")) return std::nullopt;
            const bool isZone = rest.starts_with("TZ") || rest.starts_with("tz");
            if (isZone && !wordAt(rest)) return std::nullopt;
            if (rest.starts_with("FX") || rest.starts_with("fx")) {
                made_.isExact = true;
                at_ += 2;
                continue;
            }
            const bool isBare = rest.starts_with("FM") || rest.starts_with("fm");
            if (isBare) at_ += 2;
            if (const auto word = wordAt(text_.substr(at_)))
                field(*word, isBare);
            else if (!isBare)
                text();
        }
        return std::move(made_);
    }

  private:
    void field(const Word& word, bool isBare) {
        MomentNode node{MomentNode::Kind::Field, word.field, word.letters, word.digits};
        node.isFilled = !isBare;
        at_ += word.text.size();
        const std::string_view rest = text_.substr(at_);
        node.isOrdinalLower = rest.starts_with("th");
        node.isOrdinal = node.isOrdinalLower || rest.starts_with("TH");
        if (node.isOrdinal) at_ += 2;
        if (text_.substr(at_).starts_with("SP") || text_.substr(at_).starts_with("sp")) at_ += 2;  // says nothing
        made_.nodes.push_back(std::move(node));
    }

    /// One character, or all that stands between double quotes.
    void text() {
        const char c = text_[at_];
        if (c == '"') {
            for (++at_; at_ < text_.size() && text_[at_] != '"'; ++at_) {
                if (text_[at_] == '\\' && at_ + 1 < text_.size()) ++at_;
                add(MomentNode::Kind::Text, text_[at_]);
            }
            ++at_;
            return;
        }
        if (c == '\\' && at_ + 1 < text_.size() && text_[at_ + 1] == '"') ++at_;
        const bool isBlank = text_[at_] == ' ' || text_[at_] == '\t' || text_[at_] == '\n';
        add(isBlank                        ? MomentNode::Kind::Space
            : isFieldSeparator(text_[at_]) ? MomentNode::Kind::Separator
                                           : MomentNode::Kind::Text,
            text_[at_]);
        ++at_;
    }
    void add(MomentNode::Kind kind, char c) {
        const bool continues = (static_cast<unsigned char>(c) & 0xC0) == 0x80;  // of a character of several bytes
        if (continues && !made_.nodes.empty() && made_.nodes.back().kind == kind) {
            made_.nodes.back().text += c;
            return;
        }
        MomentNode node{kind};
        node.text = c;
        made_.nodes.push_back(std::move(node));
    }

    std::string_view text_;
    std::size_t at_ = 0;
    MomentTemplate made_;
};

}  // namespace

std::optional<MomentTemplate> momentTemplate(std::string_view pattern) { return PatternReader(pattern).run(); }

}  // namespace jollyrow
