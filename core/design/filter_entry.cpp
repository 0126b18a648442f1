// SPDX-License-Identifier: MIT
// Signs first (longest first), then "..", then "*" at the ends of a text, then commas, then words of their own, then a
// value. Covered by tests/design/condition_test.cpp and the fuzz target filter_entry.
#include "core/design/filter_entry.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>

#include "core/base/trimmed.h"
#include "core/columns/time_zone.h"
#include "core/rules/conversion.h"
#include "core/rules/utf8.h"

namespace jollyrow {
namespace {

constexpr std::size_t kMostBytes = 10000;

struct Piece {
    std::string_view text;
    std::size_t offset = 0;
};

/// Tabs and line ends, too: what is pasted brings them, and numbers are read over them.
Piece trimmed(Piece p) {
    const std::string_view text = jollyrow::trimmed(p.text);
    p.offset += text.empty() ? p.text.size() : static_cast<std::size_t>(text.data() - p.text.data());
    p.text = text;
    return p;
}

/// "top_percent" as it is typed: "top percent".
std::string operatorWords(std::string_view name) {
    std::string out(name);
    std::replace(out.begin(), out.end(), '_', ' ');
    return out;
}

bool isWord(std::string_view text, std::string_view word) { return lowered(text) == word; }

class EntryReader {
  public:
    EntryReader(const Design& design, const TableSchema& schema, const std::string& field)
        : design_(design), schema_(schema), column_(field), tested_(testedField(design, schema, field)) {
        const auto known = schema.find(tested_);
        at_ = known ? &schema.field(*known) : nullptr;
    }

    Result<Condition> read(Piece piece) {
        if (!at_) return Error{ErrorCode::NotFound, fmt::format("There is no column {}.", tested_)};
        if (at_->type == Type::Binary || at_->type == Type::NumberList) {
            if (isWord(piece.text, "empty")) return Condition::of(Test::IsEmpty, tested_);
            if (isWord(piece.text, "not empty")) return negated(Condition::of(Test::IsEmpty, tested_));
            return fail(piece, "Only \"empty\" and \"not empty\" can be asked here.");
        }
        return whole(piece);
    }

  private:
    static Error fail(Piece where, std::string message) {
        return {ErrorCode::InvalidInput, std::move(message), TextRange{where.offset, where.text.size()}};
    }
    static Condition negated(Condition c) {
        c.negated = !c.negated;
        return c;
    }
    Piece after(Piece p, std::size_t bytes) const { return trimmed({p.text.substr(bytes), p.offset + bytes}); }

    Result<Condition> whole(Piece p) {
        static constexpr std::array<std::pair<std::string_view, Test>, 12> kSigns = {{{">=", Test::GreaterEqual},
                                                                                      {"<=", Test::LessEqual},
                                                                                      {"<>", Test::NotEqual},
                                                                                      {"!=", Test::NotEqual},
                                                                                      {"≥", Test::GreaterEqual},
                                                                                      {"≤", Test::LessEqual},
                                                                                      {"≠", Test::NotEqual},
                                                                                      {">", Test::Greater},
                                                                                      {"<", Test::Less},
                                                                                      {"=", Test::Equal},
                                                                                      {"!", Test::NotEqual},
                                                                                      {"==", Test::Equal}}};
        for (const auto& [sign, test] : kSigns) {
            if (!p.text.starts_with(sign)) continue;
            const Piece rest = after(p, sign.size());
            if (rest.text.empty()) return fail(p, fmt::format("A value is expected after {}.", sign));
            if (isWord(rest.text, "empty") && (test == Test::Equal || test == Test::NotEqual))
                return test == Test::Equal ? empty() : negated(empty());
            if (test == Test::Equal || test == Test::NotEqual) {
                auto same = equals(rest);
                return same && test == Test::NotEqual ? Result<Condition>(turned(*same)) : same;
            }
            auto value = valueOf(rest);
            if (!value) return value.error();
            return Condition::of(test, tested_, {*value});
        }
        if (isWord(p.text, "empty")) return empty();
        if (isWord(p.text, "not empty")) return negated(empty());
        if (p.text.size() > 4 && isWord(p.text.substr(0, 4), "not ")) {
            auto inner = whole(after(p, 4));
            return inner ? Result<Condition>(turned(*inner)) : inner;
        }
        if (auto range = between(p)) return *range;
        if (p.text.find(',') != std::string_view::npos) {
            if (auto list = oneOf(p)) return *list;
        }
        if (isDay())
            for (const std::string& period : periodNames())
                if (isWord(p.text, period)) return Condition::of(Test::Period, tested_, {period});
        if (auto own = ownOperator(p)) return *own;
        if (at_->type == Type::Text) return pattern(p);
        return equals(p);
    }

    /// "above average", "top 10", "same day 24 Nov 2026": an operator's name with blanks, then its arguments.
    std::optional<Result<Condition>> ownOperator(Piece p) {
        auto known = operatorsFor(design_, at_->type);
        // "top percent 10" is not "top" of "percent 10".
        std::stable_sort(known.begin(), known.end(), [](const OperatorDesign& a, const OperatorDesign& b) {
            return a.name.size() > b.name.size();
        });
        for (const OperatorDesign& op : known) {
            const std::string words = operatorWords(op.name);
            if (!isWord(p.text.substr(0, words.size()), words)) continue;
            if (p.text.size() > words.size() && p.text[words.size()] != ' ') continue;
            Condition out = Condition::of(Test::Operator, tested_);
            out.name = op.name;
            Piece rest = after(p, words.size());
            if (op.arguments.empty() && !rest.text.empty()) continue;
            for (std::size_t i = 0; i < op.arguments.size(); ++i) {
                const std::size_t end =
                    i + 1 == op.arguments.size() ? rest.text.size() : std::min(rest.text.find(' '), rest.text.size());
                const Piece argument = trimmed({rest.text.substr(0, end), rest.offset});
                if (argument.text.empty())
                    return Result<Condition>(
                        fail(p, fmt::format("{} needs its {}: \"{} 10\".", words, op.arguments[i], words)));
                if (const auto number = parseWideDecimal(argument.text)) {
                    // As a rule writes it: "08", "+8" and "8." are 8.
                    out.values.push_back(localTextOf(RuleValue(*number), zone()));
                } else if (isDay()) {
                    auto value = valueOf(argument);
                    if (!value) return Result<Condition>(value.error());
                    out.values.push_back(value->substr(0, 10));
                } else {
                    return Result<Condition>(
                        fail(argument, fmt::format("A number is expected as the {}.", op.arguments[i])));
                }
                rest = after(rest, end);
            }
            return Result<Condition>(std::move(out));
        }
        return std::nullopt;
    }

    bool isDay() const { return hasDay(at_->type); }
    Condition empty() const { return Condition::of(Test::IsEmpty, tested_); }
    static Condition turned(Condition c) {
        if (c.kind != ConditionKind::Test) {
            Condition none;
            none.kind = ConditionKind::None;
            none.children.push_back(std::move(c));
            return none;
        }
        if (c.test == Test::Equal) {
            c.test = Test::NotEqual;
            return c;
        }
        return negated(std::move(c));
    }

    std::optional<Result<Condition>> between(Piece p) {
        const std::size_t dots = p.text.find("..");
        if (dots == std::string_view::npos || at_->type == Type::Boolean) return std::nullopt;
        const Piece low = trimmed({p.text.substr(0, dots), p.offset});
        std::size_t skip = dots + 2;
        while (skip < p.text.size() && p.text[skip] == '.') ++skip;
        const Piece high = trimmed({p.text.substr(skip), p.offset + skip});
        if (low.text.empty() && high.text.empty()) return std::nullopt;
        const auto one = [&](Test test, Piece piece) -> Result<Condition> {
            auto value = valueOf(piece);
            if (!value) return value.error();
            return Condition::of(test, tested_, {*value});
        };
        if (low.text.empty()) return one(Test::LessEqual, high);
        if (high.text.empty()) return one(Test::GreaterEqual, low);
        auto from = valueOf(low), to = valueOf(high);
        if (!from) return Result<Condition>(from.error());
        if (!to) return Result<Condition>(to.error());
        return Result<Condition>(Condition::of(Test::Between, tested_, {*from, *to}));
    }

    /// Values between commas; not a list when one of them cannot be read and the whole can ("1,5" in some locales).
    std::optional<Result<Condition>> oneOf(Piece p) {
        if (at_->type != Type::Text && valueOf(p)) return std::nullopt;
        Condition exact = Condition::of(Test::OneOf, tested_);
        Condition any;
        any.kind = ConditionKind::Any;
        std::size_t start = 0;
        for (;;) {
            const std::size_t comma = p.text.find(',', start);
            const Piece piece = trimmed(
                {p.text.substr(start, comma == std::string_view::npos ? comma : comma - start), p.offset + start});
            if (!piece.text.empty()) {
                auto one = at_->type == Type::Text && !isChoice() ? pattern(piece) : equals(piece);
                if (!one) return Result<Condition>(one.error());
                exact.values.push_back(one->values.empty() ? std::string() : one->values[0]);
                any.children.push_back(std::move(*one));
            }
            if (comma == std::string_view::npos) break;
            start = comma + 1;
        }
        if (any.children.empty()) return Result<Condition>(fail(p, "A value is expected beside the comma."));
        // A day of moments is a range, which no list of values holds.
        const bool plain = std::all_of(any.children.begin(), any.children.end(), [](const Condition& c) {
            return c.kind == ConditionKind::Test && c.test == Test::Equal;
        });
        if (!plain && any.children.size() == 1) return Result<Condition>(std::move(any.children.front()));
        return Result<Condition>(plain ? exact : any);
    }

    bool isChoice() const { return at_->use == Use::Choice || !at_->permitted.empty(); }

    Result<Condition> equals(Piece p) {
        if (at_->type == Type::Boolean) {
            for (const std::string_view yes : {"yes", "true", "y", "1", "on"})
                if (isWord(p.text, yes)) return Condition::of(Test::IsTrue, tested_);
            for (const std::string_view no : {"no", "false", "n", "0", "off"})
                if (isWord(p.text, no)) return Condition::of(Test::IsFalse, tested_);
            if (const auto formatter = columnFormatter(); formatter) {
                const auto parsed = formatter->parse(p.text, *at_);
                if (parsed && std::holds_alternative<bool>(*parsed))
                    return Condition::of(std::get<bool>(*parsed) ? Test::IsTrue : Test::IsFalse, tested_);
            }
            return fail(p, "Yes or no is expected here.");
        }
        if (at_->type == Type::Text) {
            if (isChoice())
                for (const std::string& choice : at_->permitted)
                    if (lowered(choice) == lowered(p.text)) return Condition::of(Test::Equal, tested_, {choice});
            return Condition::of(Test::Is, tested_, {std::string(p.text)});
        }
        auto value = valueOf(p);
        if (!value) return value.error();
        if (isMoment(at_->type) && value->size() > 10 && value->ends_with(" 00:00:00") &&
            p.text.find(':') == std::string_view::npos) {
            // A day stands for all of it.
            const auto day = dateFromText(value->substr(0, 10));
            if (day) {
                Condition all;
                all.children = {Condition::of(Test::GreaterEqual, tested_, {*value}),
                                Condition::of(Test::Less, tested_, {textOfDate(*day + 1) + " 00:00:00"})};
                return all;
            }
        }
        return Condition::of(Test::Equal, tested_, {*value});
    }

    Result<Condition> pattern(Piece p) {
        const bool open = p.text.starts_with('*'), close = p.text.size() > 1 && p.text.ends_with('*');
        std::string_view inner = p.text;
        if (open) inner.remove_prefix(1);
        if (close) inner.remove_suffix(1);
        if (open || close) {
            if (inner.empty()) return negated(empty());
            return Condition::of(open && close ? Test::Contains
                                 : open        ? Test::EndsWith
                                               : Test::StartsWith,
                                 tested_, {std::string(inner)});
        }
        if (isChoice()) {
            auto exact = equals(p);
            if (exact && exact->test == Test::Equal) return exact;
        }
        return Condition::of(Test::Contains, tested_, {std::string(p.text)});
    }

    std::shared_ptr<const Formatter> columnFormatter() const {
        const ColumnDesign* column = design_.column(column_);
        if (!column || column_ != tested_) return nullptr;
        auto made = formatterFor(textFormatOf(design_, *column, *at_), schema_, design_);
        return made && !(*made)->isMessage() ? *made : nullptr;
    }

    const TimeZone& zone() const { return zoneOf(schema_); }
    /// The value in plain form.
    Result<std::string> valueOf(Piece p) {
        if (p.text.empty()) return fail(p, "A value is expected here.");
        const RuleKind kind = ruleKindOf(at_->type);
        if (kind == RuleKind::Text) return std::string(p.text);
        if (const auto plain = convertedConstant(RuleValue(std::string(p.text)), kind, zone()))
            return localTextOf(*plain, zone());
        if (isDay()) {
            if (isWord(p.text, "today")) return textOfDate(zone().today());
            if (isWord(p.text, "yesterday")) return textOfDate(zone().today() - 1);
            if (isWord(p.text, "tomorrow")) return textOfDate(zone().today() + 1);
        }
        std::vector<std::shared_ptr<const Formatter>> formatters;
        if (auto own = columnFormatter()) formatters.push_back(std::move(own));
        TextFormat usual = defaultFormat(*at_, false);
        usual.locale = design_.locale;
        formatters.push_back(Formatter::automatic(usual));
        for (const auto& formatter : formatters) {
            const auto parsed = formatter->parse(p.text, *at_);
            if (parsed && !isEmpty(*parsed)) return localTextOf(ruleValue(*parsed), zone());
        }
        return fail(p, fmt::format("\"{}\" is not {}.", p.text.substr(0, 40), article(kind)));
    }

    const Design& design_;
    const TableSchema& schema_;
    std::string column_, tested_;
    const FieldSchema* at_ = nullptr;
};

}  // namespace

Result<Condition> conditionFromEntry(std::string_view entry, const Design& design, const TableSchema& schema,
                                     const std::string& field) {
    const Piece piece = trimmed({entry, 0});
    if (piece.text.empty()) return Condition{};
    if (entry.size() > kMostBytes)
        return Error{ErrorCode::InvalidInput, "This entry is longer than 10 000 characters.",
                     TextRange{0, entry.size()}};
    if (const auto broken = firstBrokenUtf8(entry))
        return Error{ErrorCode::InvalidInput, "The text is not valid UTF-8 here.", TextRange{*broken, 1}};
    return EntryReader(design, schema, field).read(piece);
}

std::string entryOf(const Condition& c, const Design& design, const TableSchema& schema) {
    if (c.kind != ConditionKind::Test || c.toField) return {};
    const auto known = schema.find(c.field);
    const Type type = known ? schema.field(*known).type : Type::Text;
    std::string out;
    const auto value = [&](std::size_t i) { return i < c.values.size() ? c.values[i] : std::string(); };
    switch (c.test) {
        case Test::Equal: out = (type == Type::Text ? "= " : "") + value(0); break;
        case Test::Is: out = "= " + value(0); break;
        case Test::NotEqual: out = "≠ " + value(0); break;
        case Test::Less: out = "< " + value(0); break;
        case Test::LessEqual: out = "≤ " + value(0); break;
        case Test::Greater: out = "> " + value(0); break;
        case Test::GreaterEqual: out = "≥ " + value(0); break;
        case Test::Between: out = value(0) + ".." + value(1); break;
        case Test::OneOf:
            for (std::size_t i = 0; i < c.values.size(); ++i) {
                if (c.values[i].find(',') != std::string::npos) return {};
                out += (i == 0 ? "" : ", ") + c.values[i];
            }
            if (type == Type::Text) return {};
            break;
        case Test::Contains: out = value(0); break;
        case Test::StartsWith: out = value(0) + "*"; break;
        case Test::EndsWith: out = "*" + value(0); break;
        case Test::IsEmpty: return c.negated ? "not empty" : "empty";
        case Test::IsTrue: out = "yes"; break;
        case Test::IsFalse: out = "no"; break;
        case Test::Period: out = value(0); break;
        case Test::Operator:
            out = operatorWords(c.name);
            for (const std::string& argument : c.values) out += " " + argument;
            break;
    }
    if (c.negated) out = "not " + out;
    // Only what reads back as the same.
    const auto again = conditionFromEntry(out, design, schema, c.field);
    return again && *again == c ? out : std::string();
}

std::string idleMark(Type type, Use use) {
    if (type == Type::Text) return use == Use::Choice ? "=" : "…a…";
    if (type == Type::Binary || type == Type::NumberList) return "∅";
    return "=";
}

}  // namespace jollyrow
