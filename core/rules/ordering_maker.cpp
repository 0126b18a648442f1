// SPDX-License-Identifier: MIT
// Covered by tests/rules/typed_oracle_test.cpp and tests/sources/server_tables_test.cpp.
#include "core/rules/ordering_maker.h"

#include <algorithm>

#include "core/base/near_name.h"
#include "core/rules/collation_key.h"

namespace jollyrow {

Result<OrderingMaker::Ref> OrderingMaker::collate(const std::string& name, Ref value, TextRange range) {
    if (!isKnownCollation(name))
        return fail(range, fmt::format("There is no collation {}. \"C\" is (by code points), and those of ICU's "
                                       "languages: \"und-x-icu\", \"de-x-icu\" and so on.",
                                       name));
    auto text = fitted_(value, RuleKind::Text, "COLLATE");
    if (!text) return text;
    auto marked = make(Op::Coalesce, {RuleKind::Text, 0}, {*text}, range);
    if (marked) collations_[*marked] = name;
    return marked;
}

Result<OrderingMaker::Ref> OrderingMaker::keyOf(const std::string& collation, Ref value) {
    const TextRange range = program_.code[value].range;
    auto name = constant(collation, range);
    return name ? make(Op::CollationKey, {RuleKind::Text, 0}, {value, *name}, range) : name;
}

Result<OrderingMaker::Ref> OrderingMaker::orderedBy(Ref value) {
    if (const auto found = collations_.find(value); found != collations_.end()) return keyOf(found->second, value);
    const auto* values = enumOf(value);
    return values ? placeIn(*values, value) : Result<Ref>(value);
}

Result<void> OrderingMaker::makeOrdered(std::vector<Ref>& sides, TextRange range) {
    const std::string* collation = nullptr;
    const std::vector<std::string>* values = nullptr;
    for (const Ref side : sides) {
        const auto found = collations_.find(side);
        if (found != collations_.end() && collation && *collation != found->second)
            return fail(range,
                        fmt::format("These are ordered by two collations, {} and {}.", *collation, found->second));
        if (found != collations_.end()) collation = &found->second;
        if (const auto* own = enumOf(side)) {
            if (values && *values != *own)
                return fail(range, "These are values of two enums: they have no order between them.");
            values = own;
        }
    }
    if (!collation && !values) return {};
    for (Ref& side : sides) {
        if (kind(side) == RuleKind::Null) continue;
        auto key = collation ? keyOf(*collation, side) : placeIn(*values, side);
        if (!key) return key.error();
        side = *key;
    }
    return {};
}

const std::vector<std::string>* OrderingMaker::enumOf(Ref value) const {
    const Instruction& code = program_.code[value];
    if (code.op != Op::Load) return nullptr;
    const FieldSchema& field = schema_.field(static_cast<FieldIndex>(code.index));
    return field.ordered && field.type == Type::Text && !field.permitted.empty() ? &field.permitted : nullptr;
}

Result<OrderingMaker::Ref> OrderingMaker::placeIn(const std::vector<std::string>& values, Ref value) {
    const Instruction from = program_.code[value];
    if (from.op == Op::Constant) {
        const auto* text = std::get_if<std::string>(&from.constant);
        const auto found = text ? std::find(values.begin(), values.end(), *text) : values.end();
        if (text && found == values.end()) {
            const auto near = nearestName(*text, values);
            return fail(from.range, fmt::format("'{}' is none of the values that this column has.{}", *text,
                                                near ? fmt::format(" Did you mean '{}'?", *near) : ""));
        }
        if (text) return constant(std::int64_t{found - values.begin()}, from.range);
    }
    std::vector<Ref> choices;
    for (std::size_t i = 0; i < values.size(); ++i) {
        auto text = constant(values[i], from.range);
        if (!text) return text;
        auto is = make(Op::Equal, {RuleKind::Boolean, 0}, {value, *text}, from.range);
        auto place = constant(static_cast<std::int64_t>(i), from.range);
        if (!is) return is;
        if (!place) return place;
        choices.insert(choices.end(), {*is, *place});
    }
    auto none = from.op == Op::Load ? constant(Empty{}, from.range) : noPlace(value);
    if (!none) return none;
    choices.push_back(*none);
    return choice(std::move(choices), from.range);
}

/// Of a text that is none of the values, e.g. a parameter's: an error, as the server has it. Empty stays empty.
Result<OrderingMaker::Ref> OrderingMaker::noPlace(Ref value) {
    const TextRange range = program_.code[value].range;
    auto letter = constant(std::string("x"), range);  // no number begins so
    if (!letter) return letter;
    auto text = make(Op::Concatenate, {RuleKind::Text, 0}, {*letter, value}, range);
    return text ? make(Op::Cast, {RuleKind::Integer, 0}, {*text}, range) : text;
}

Result<OrderingMaker::Ref> OrderingMaker::valueAt(const std::vector<std::string>& values, Ref place) {
    const TextRange range = program_.code[place].range;
    std::vector<Ref> choices;
    for (std::size_t i = 0; i < values.size(); ++i) {
        auto number = constant(static_cast<std::int64_t>(i), range);
        if (!number) return number;
        auto is = make(Op::Equal, {RuleKind::Boolean, 0}, {place, *number}, range);
        auto text = constant(values[i], range);
        if (!is) return is;
        if (!text) return text;
        choices.insert(choices.end(), {*is, *text});
    }
    auto none = constant(Empty{}, range);
    if (!none) return none;
    choices.push_back(*none);
    return choice(std::move(choices), range);
}

}  // namespace jollyrow
