// SPDX-License-Identifier: MIT
#pragma once
// PlannedFace: a face met with a schema, for one column: fields found, patterns and rules made ready. Immutable; any
// thread.

#include <memory>
#include <optional>
#include <vector>

#include "core/columns/schema.h"
#include "core/design/design.h"
#include "core/design/finding.h"
#include "core/design/operators.h"
#include "core/formats/formatter.h"
#include "core/rows/extents.h"
#include "core/rules/program.h"

namespace jollyrow {

struct PlannedPart {
    FacePart design;                  ///< without its parts
    std::vector<std::size_t> path;    ///< in the design's tree, from the root
    std::size_t end = 0;              ///< its parts are those from the next one up to here
    std::optional<FieldIndex> field;  ///< of what shows one
    std::vector<FieldIndex> fields;   ///< of a bar: what is stacked
    bool isList = false;              ///< of a bar: `fields` is one list of numbers
    bool isRecorded = false;          ///< of a trend: what a field of one number held before, and holds
    std::vector<std::string> names;   ///< of a bar: what `fields` are called
    std::vector<std::shared_ptr<const Formatter>> formatters;  ///< of `fields`, where they are several
    std::shared_ptr<const Formatter> formatter;         ///< of `field`, or the message; null where there is no text
    std::shared_ptr<const Formatter> toolTip;           ///< null without one
    std::shared_ptr<const Formatter> opens;             ///< of a link: its address; null without one
    std::shared_ptr<const Program> shownWhen;           ///< null: always
    std::vector<std::shared_ptr<const Program>> rules;  ///< by rule; null: always
    std::optional<ExtentTerm> extent;                   ///< of a bar that is no share
};

struct PlannedFace {
    std::string name;
    std::vector<PlannedPart> parts;  ///< parents before their parts; the root first
    std::vector<FieldIndex> fields;  ///< all that it reads, each once
    FieldIndex own{};                ///< of the column
};

/// Parts that cannot be had are left out and become findings. Null when nothing is left. O(parts).
std::shared_ptr<const PlannedFace> plannedFace(const Design& design, const FaceDesign& face, const ColumnDesign& column,
                                               const TableSchema& schema, const Registered* registered,
                                               std::vector<Finding>& findings);

/// A condition of a part; `value` in it is the field that the part shows, unless a column has that name. It looks at
/// one record: aggregates over others are refused.
Result<std::shared_ptr<const Program>> partCondition(const std::string& rule, const std::string& field,
                                                     const TableSchema& schema, const RuleVocabulary& vocabulary);

/// The names of fields that a face reads, related ones among them; patterns and rules included.
std::vector<std::string> fieldNamesOf(const FacePart& root);

}  // namespace jollyrow
