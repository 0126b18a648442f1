// SPDX-License-Identifier: MIT
#pragma once
// What values are ordered by where it is not themselves: the places of an enum's values, and a collation by name.
// Places are whole numbers, made by a CASE over the values; a collation's order is that of a text made of its keys.

#include <map>
#include <string>
#include <string_view>
#include <vector>

#include "core/columns/schema.h"
#include "core/rules/instruction_maker.h"

namespace jollyrow {

class OrderingMaker : protected InstructionMaker {
  protected:
    explicit OrderingMaker(const TableSchema& schema) : InstructionMaker(zoneOf(schema)), schema_(schema) {}

    /// value COLLATE name: the same text, ordered as that collation orders it.
    Result<Ref> collate(const std::string& name, Ref value, TextRange range);
    /// What `value` is ordered by; itself, for most.
    Result<Ref> orderedBy(Ref value);
    /// Makes both sides of < <= > >= what they are compared by.
    Result<void> makeOrdered(std::vector<Ref>& sides, TextRange range);
    /// The values of an enum in their order; null when it is none.
    const std::vector<std::string>* enumOf(Ref value) const;
    Result<Ref> placeIn(const std::vector<std::string>& values, Ref value);
    /// The value at a place.
    Result<Ref> valueAt(const std::vector<std::string>& values, Ref place);
    bool isCollated(Ref value) const { return collations_.contains(value); }

    const TableSchema& schema_;

  private:
    Result<Ref> noPlace(Ref value);
    Result<Ref> keyOf(const std::string& collation, Ref value);
    std::map<Ref, std::string> collations_;  ///< of values behind which COLLATE stands
};

}  // namespace jollyrow
