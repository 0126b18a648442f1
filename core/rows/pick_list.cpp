// SPDX-License-Identifier: MIT
// A dictionary column is counted by code and ordered by the ranks that sorting keeps anyway; other columns are counted
// in a hash table of their values. Covered by tests/rows/filter_test.cpp; cost in docs/bench.md.
#include "core/rows/pick_list.h"

#include <algorithm>
#include <cmath>
#include <map>
#include <numeric>
#include <unordered_map>

#include "core/rules/conversion.h"

namespace jollyrow {
namespace {

/// Calls visit(row) for each record of the set.
template <class Visit>
void forEachRow(const RecordSet* set, std::size_t rows, const Visit& visit) {
    if (!set) {
        for (std::size_t i = 0; i < rows; ++i) visit(i);
        return;
    }
    for (std::size_t w = 0; w < set->bits.size(); ++w)
        for (std::uint64_t word = set->bits[w]; word != 0; word &= word - 1)
            visit(w * 64 + static_cast<std::size_t>(__builtin_ctzll(word)));
}

bool before(const Value& a, const Value& b) {
    if (const auto x = exactOf(a), y = exactOf(b); x && y) return *x < *y;
    if (a.index() != b.index()) return a.index() < b.index();
    if (const auto* v = std::get_if<std::int64_t>(&a)) return *v < std::get<std::int64_t>(b);
    if (const auto* v = std::get_if<double>(&a)) return *v < std::get<double>(b);
    if (const auto* v = std::get_if<bool>(&a)) return *v < std::get<bool>(b);
    if (const auto* v = std::get_if<Date>(&a)) return v->days < std::get<Date>(b).days;
    if (const auto* v = std::get_if<Time>(&a)) return v->micros < std::get<Time>(b).micros;
    if (const auto* v = std::get_if<Timestamp>(&a)) return v->micros < std::get<Timestamp>(b).micros;
    if (const auto* v = std::get_if<Instant>(&a)) return v->micros < std::get<Instant>(b).micros;
    return false;
}

/// The codes that are there at all, by rank, those of one rank by code. Ranks are dense: each is given as many places
/// as it has codes.
std::vector<std::uint32_t> byRank(const std::vector<std::int64_t>& counts, const TextRanks& ranks) {
    std::vector<std::uint32_t> places(ranks.distinct + std::size_t{1});
    for (std::size_t code = 0; code < counts.size(); ++code)
        if (counts[code] != 0) ++places[ranks.ranks[code] + std::size_t{1}];
    std::partial_sum(places.begin(), places.end(), places.begin());
    std::vector<std::uint32_t> order(places.back());
    for (std::uint32_t code = 0; code < counts.size(); ++code)
        if (counts[code] != 0) order[places[ranks.ranks[code]]++] = code;
    return order;
}

void countDictionary(const Column& column, const TextDictionary& dictionary, const RecordSet* set,
                     const TextRanks& ranks, PickList& out) {
    std::vector<std::int64_t> counts(dictionary.distinct.size());
    const std::uint32_t* codes = dictionary.codes.data();
    if (column.emptyCount() == 0) {
        forEachRow(set, column.size(), [&](std::size_t row) { ++counts[codes[row]]; });
    } else {
        forEachRow(set, column.size(), [&](std::size_t row) {
            if (column.isEmpty(static_cast<SourceRow>(row)))
                ++out.empties;
            else
                ++counts[codes[row]];
        });
    }
    const std::vector<std::uint32_t> order = byRank(counts, ranks);
    out.entries.reserve(order.size());
    constexpr std::size_t kAhead = 16;  // texts lie anywhere: each is asked for before it is needed
    for (std::size_t i = 0; i < order.size(); ++i) {
        if (i + kAhead < order.size()) __builtin_prefetch(dictionary.distinct.at(order[i + kAhead]).data());
        out.entries.push_back({std::string(dictionary.distinct.at(order[i])), counts[order[i]]});
    }
}

/// An arena, whose texts hardly repeat: records in the order of their ranks, equal texts side by side.
void countArena(const Column& column, const RecordSet* set, const TextRanks& ranks, PickList& out) {
    std::vector<std::uint64_t> order;  // rank, row
    order.reserve(set ? set->count : column.size());
    forEachRow(set, column.size(), [&](std::size_t i) {
        if (column.isEmpty(static_cast<SourceRow>(i)))
            ++out.empties;
        else
            order.push_back(static_cast<std::uint64_t>(ranks.ranks[i]) << 32 | i);
    });
    std::sort(order.begin(), order.end());
    for (std::size_t i = 0; i < order.size();) {
        const std::uint64_t rank = order[i] >> 32;
        const std::size_t first = out.entries.size();
        for (; i < order.size() && order[i] >> 32 == rank; ++i) {
            const std::string_view text = column.text(static_cast<SourceRow>(order[i] & 0xffffffffU));
            // Texts of one rank may differ by bytes; they are few.
            auto known = std::find_if(out.entries.begin() + static_cast<std::ptrdiff_t>(first), out.entries.end(),
                                      [&](const PickEntry& e) { return std::get<std::string>(e.value) == text; });
            if (known == out.entries.end())
                out.entries.push_back({std::string(text), 1});
            else
                ++known->count;
        }
    }
}

template <class Number>
Number numberIn(const Column& column, SourceRow row) {
    if constexpr (std::is_same_v<Number, double>)
        return column.real(row);
    else
        return column.integer(row);
}

template <class Map>
void countNumbers(const Column& column, const RecordSet* set, PickList& out) {
    Map counts;
    forEachRow(set, column.size(), [&](std::size_t i) {
        const auto row = static_cast<SourceRow>(i);
        if (column.isEmpty(row))
            ++out.empties;
        else
            ++counts[numberIn<typename Map::key_type>(column, row)];
    });
    out.entries.reserve(counts.size());
    for (const auto& [key, count] : counts) {
        Value value;
        if constexpr (std::is_same_v<typename Map::key_type, double>) {
            value = key;
        } else {
            switch (column.type()) {
                case Type::Boolean: value = key != 0; break;
                case Type::Decimal: value = narrowest({key, column.scale()}); break;
                case Type::Date: value = Date{static_cast<std::int32_t>(key)}; break;
                case Type::Time: value = Time{key}; break;
                case Type::Timestamp: value = Timestamp{key}; break;
                case Type::Instant: value = Instant{key}; break;
                default: value = key; break;
            }
        }
        out.entries.push_back({std::move(value), count});
    }
}

void countWide(const Column& column, const RecordSet* set, PickList& out) {
    std::map<Int128, std::int64_t> counts;
    forEachRow(set, column.size(), [&](std::size_t i) {
        const auto row = static_cast<SourceRow>(i);
        column.isEmpty(row) ? ++out.empties : ++counts[column.decimal(row).mantissa];
    });
    for (const auto& [mantissa, count] : counts)
        out.entries.push_back({narrowest(WideDecimal{mantissa, column.scale()}), count});
}

/// What was counted as empty and is not.
void tellMisfits(const Column& column, const RecordSet* set, PickList& out) {
    for (const Misfit& odd : column.misfits())
        if (!set || set->contains(odd.row)) ++out.misfits;
    out.empties -= out.misfits;
}

/// Moves the counts of edited cells from what the table holds to what they show.
void applyEdits(const Column& column, FieldIndex field, const Edits& edits, const RecordSet* set, PickList& out,
                bool& unordered) {
    for (const auto& [place, edit] : edits.cells()) {
        if (place.second != field || raw(place.first) >= column.size()) continue;
        if (set && !set->contains(raw(place.first))) continue;
        const auto move = [&](const Value& value, std::int64_t by) {
            if (isEmpty(value) || std::holds_alternative<Unfit>(value)) {
                (isEmpty(value) ? out.empties : out.misfits) += by;
                return;
            }
            const auto found = std::find_if(out.entries.begin(), out.entries.end(),
                                            [&](const PickEntry& e) { return e.value == value; });
            if (found != out.entries.end()) {
                found->count += by;
            } else if (by > 0) {
                out.entries.push_back({value, by});
                unordered = true;
            }
        };
        move(column.value(place.first), -1);
        move(edit.value, 1);
    }
    std::erase_if(out.entries, [](const PickEntry& e) { return e.count <= 0; });
}

}  // namespace

Result<std::shared_ptr<const PickList>> pickListOf(const Column& column, FieldIndex field, const Edits* edits,
                                                   const RecordSet* set, const TextOrder& order, RankCache& ranks,
                                                   const Cancel& cancel) {
    auto out = std::make_shared<PickList>();
    out->records = static_cast<std::int64_t>(set ? set->count : column.size());
    const auto* dictionary = std::get_if<TextDictionary>(&column.storage());
    bool unordered = !dictionary;
    if (dictionary) {
        auto ranked = ranks.ranksOf(column, order, cancel);
        if (!ranked) return ranked.error();
        countDictionary(column, *dictionary, set, **ranked, *out);
    } else if (column.isWide()) {
        countWide(column, set, *out);
    } else if (column.type() == Type::Real) {
        countNumbers<std::unordered_map<double, std::int64_t>>(column, set, *out);
    } else if (isBytes(column.type())) {
        auto ranked = ranks.ranksOf(column, order, cancel);
        if (!ranked) return ranked.error();
        countArena(column, set, **ranked, *out);
        unordered = false;
    } else {
        countNumbers<std::unordered_map<std::int64_t, std::int64_t>>(column, set, *out);
    }
    if (cancel.requested()) return Error{ErrorCode::Cancelled, "Stopped."};
    tellMisfits(column, set, *out);
    if (edits) applyEdits(column, field, *edits, set, *out, unordered);
    if (unordered) {
        if (isBytes(column.type())) {
            const TextComparator compare(order);
            std::sort(out->entries.begin(), out->entries.end(), [&](const PickEntry& a, const PickEntry& b) {
                return compare.compare(std::get<std::string>(a.value), std::get<std::string>(b.value)) < 0;
            });
        } else {
            std::sort(out->entries.begin(), out->entries.end(),
                      [](const PickEntry& a, const PickEntry& b) { return before(a.value, b.value); });
        }
    }
    return std::shared_ptr<const PickList>(std::move(out));
}

}  // namespace jollyrow
