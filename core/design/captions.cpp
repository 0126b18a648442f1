// SPDX-License-Identifier: MIT
// Covered by tests/design/grouping_test.cpp.
#include "core/design/captions.h"

#include <fmt/format.h>

#include <algorithm>

#include "core/columns/civil.h"
#include "core/design/short_text.h"
#include "core/rules/conversion.h"

namespace jollyrow {
namespace {

constexpr const char* kNearness[] = {"before today", "today", "later this week", "next week", "later"};

/// ISO 8601 week of a Monday.
int weekOf(std::int32_t monday) {
    const std::int32_t thursday = monday + 3;
    const int year = civilFromDays(thursday).year;
    return (thursday - *daysFromCivil({year, 1, 1})) / 7 + 1;
}

std::shared_ptr<const Formatter> dateFormatter(const char* pattern, const std::string& locale) {
    TextFormat format;
    format.type = Type::Date;
    format.spec.style = FormatStyle::Pattern;
    format.spec.pattern = pattern;
    format.locale = locale;
    auto made = Formatter::make(format, {}, [](std::string_view) { return std::nullopt; });
    return made ? *made : Formatter::automatic(format);
}

}  // namespace

Result<std::shared_ptr<const Caption>> Caption::make(const std::string& pattern, const std::vector<Name>& names,
                                                     const std::string& locale) {
    TextFormat format;
    format.spec.style = FormatStyle::Message;
    format.spec.pattern = pattern;
    format.locale = locale;
    // Each name is two fields: the value, and its text behind all of them.
    TableSchema schema;
    schema.name = "the caption";
    for (const Name& name : names) {
        FieldSchema field;
        field.name = name.name;
        field.type = name.type;
        schema.fields.push_back(std::move(field));
    }
    for (std::size_t i = 0; i < names.size(); ++i) schema.fields.emplace_back();
    auto made = Formatter::make(format, schema, [&](std::string_view name) -> std::optional<MessageField> {
        for (std::size_t i = 0; i < names.size(); ++i)
            if (names[i].name == name)
                return MessageField{static_cast<FieldIndex>(i), static_cast<FieldIndex>(names.size() + i)};
        return std::nullopt;
    });
    if (!made) return made.error();
    auto caption = std::make_shared<Caption>();
    caption->formatter_ = std::move(*made);
    return std::shared_ptr<const Caption>(std::move(caption));
}

void Caption::append(std::string& out, const std::vector<CaptionValue>& values) const {
    formatter_->appendMessage(out, [&](FieldIndex field) -> Value {
        const std::size_t at = raw(field);
        return at < values.size() ? values[at].value : Value(values[at - values.size()].text);
    });
}

GroupNames::GroupNames(const GroupDesign& group, TextFormat keyFormat, std::shared_ptr<const Formatter> formatter,
                       const std::string& locale)
    : by_(group.by), format_(std::move(keyFormat)), formatter_(std::move(formatter)) {
    if (!formatter_) formatter_ = Formatter::automatic(format_);
    FieldSchema field;
    field.type = format_.type;
    field.scale = format_.scale;
    for (const std::string& cut : group.cuts) {
        const auto value = parseTyped(cut, field);
        std::string text;
        // A cut of whole numbers over decimals reads as it was written.
        if (value && (!isNumber(field.type) || cut.find('.') != std::string::npos))
            formatter_->append(text, *value);
        else if (const auto whole = integerFromText(cut))
            appendDisplay(text, Value(*whole), {Type::Integer});
        cuts_.push_back(text.empty() ? cut : text);
    }
    if (by_ == GroupBy::Month) formatter_ = dateFormatter("MMMM y", locale);
    if (by_ == GroupBy::Week) formatter_ = dateFormatter("d MMM y", locale);
}

void GroupNames::appendRange(std::string& out, std::size_t range) const {
    if (range == 0)
        out += fmt::format("below {}", cuts_.front());
    else if (range >= cuts_.size())
        out += fmt::format("{} and above", cuts_.back());
    else
        out += fmt::format("{} to {}", cuts_[range - 1], cuts_[range]);
}

void GroupNames::append(std::string& out, const EvaluatedCell& key) const {
    if (isError(key.state)) {
        out += fmt::format("cannot be grouped: {}", words(key.state));
        return;
    }
    if (key.state == CellState::Empty) {
        out += "(empty)";
        return;
    }
    const auto* number = std::get_if<std::int64_t>(&key.value);
    switch (by_) {
        case GroupBy::Ranges:
            if (number && !cuts_.empty()) return appendRange(out, static_cast<std::size_t>(*number));
            break;
        case GroupBy::Year:
            if (number) return void(out += std::to_string(*number));
            break;
        case GroupBy::Quarter:
            if (number) return void(out += fmt::format("Q{} {}", *number % 10, *number / 10));
            break;
        case GroupBy::Nearness:
            if (number && *number >= 0 && *number < 5) return void(out += kNearness[*number]);
            break;
        case GroupBy::Week:
            if (const auto* day = std::get_if<Date>(&key.value)) {
                out += fmt::format("week {}, from ", weekOf(day->days));
                return formatter_->append(out, Value(*day));
            }
            break;
        default: break;
    }
    appendValue(out, key.value);
}

void GroupNames::appendValue(std::string& out, const RuleValue& value) const {
    if (const auto* text = std::get_if<std::string>(&value)) {
        if (text->empty()) return void(out += "(no text)");
        return appendShort(out, *text);
    }
    if (format_.type == Type::Boolean && formatter_->format().spec.style == FormatStyle::Automatic)
        return void(out += value == RuleValue(true) ? "yes" : "no");
    appendFigure(out, {CellState::Filled, value}, *formatter_);
}

void appendFigure(std::string& out, const EvaluatedCell& cell, const Formatter& formatter) {
    if (isError(cell.state)) return void(out += words(cell.state));
    const TextFormat& format = formatter.format();
    if (cell.state == CellState::Empty) return void(out += format.spec.empty);
    std::optional<WideDecimal> exact;
    if (const auto* wide = std::get_if<WideDecimal>(&cell.value)) exact = *wide;
    if (const auto* whole = std::get_if<std::int64_t>(&cell.value); whole && format.type == Type::Decimal)
        exact = WideDecimal{*whole, 0};
    if (const auto* real = std::get_if<double>(&cell.value); real && format.type == Type::Decimal)
        exact = wideFromReal(*real);
    if (!exact) return formatter.append(out, plainValue(cell.value));
    if (format.type == Type::Real) return formatter.append(out, Value(toReal(*exact)));
    // A pattern says itself how many decimals it shows.
    const int scale = format.type == Type::Integer ? 0 : format.scale;
    const auto fitted = format.spec.style == FormatStyle::Pattern ? narrowed(*exact) : std::nullopt;
    if (fitted) return formatter.append(out, Value(*fitted));
    const auto shown = rounded(*exact, format.spec.style == FormatStyle::Pattern ? std::max(scale, 12) : scale);
    const auto narrow = shown ? narrowed(*shown) : std::nullopt;
    if (!narrow) return void(out += toString(shown ? *shown : *exact));
    if (format.type == Type::Integer) return formatter.append(out, Value(narrow->mantissa));
    formatter.append(out, Value(*narrow));
}

}  // namespace jollyrow
