// SPDX-License-Identifier: MIT
#pragma once
// ViewPlan: a design met with a schema: names resolved, formats made ready, places and tiers settled, what cannot be
// had reported. Immutable.

#include <memory>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "core/columns/schema.h"
#include "core/design/computed_fields.h"
#include "core/design/design.h"
#include "core/design/finding.h"
#include "core/design/grouping.h"
#include "core/design/operators.h"
#include "core/design/planned_check.h"
#include "core/design/planned_face.h"
#include "core/design/planned_style.h"
#include "core/formats/formatter.h"
#include "core/rows/rowline.h"

namespace jollyrow {

struct PlannedColumn {
    FieldIndex field{};
    ColumnDesign design;
    TextFormat format;
    std::shared_ptr<const Formatter> formatter;  ///< never null
    std::shared_ptr<const PlannedFace> face;     ///< null: by its type
    std::optional<FieldIndex> label;             ///< of a look-up: the related field that is shown instead
    std::optional<std::size_t> foreignKey;       ///< of a look-up: index into the schema's foreignKeys
    Alignment alignment = Alignment::Left;       ///< never Automatic
    bool editable = false;
    bool hasIcons = false;  ///< some style has an icon for its cells, which take room for one
    int place = 0;          ///< place across, from 0
    int span = 1;           ///< how many places wide
    int line = 0;           ///< line of the record, from 0
    int levels = 0;         ///< tiers over it
};

/// One tier as it is shown: over the columns [first, end) of the plan, which stand side by side.
struct PlannedTier {
    TierDesign design;
    int level = 0;  ///< 0 = the outermost
    int first = 0;
    int end = 0;
    int foldedAway = 0;  ///< columns that its fold hides
};

struct PlannedBanner {
    BannerDesign design;
    std::shared_ptr<const Program> where;      ///< never null
    std::shared_ptr<const Formatter> caption;  ///< null: what the column shows
    int column = -1;                           ///< of the plan: the one that is edited on the banner; -1: none
};

struct ViewPlan {
    std::vector<PlannedColumn> columns;  ///< the shown ones, in order; those beneath another right behind it
    std::vector<int> places;             ///< by place: the column on its first line
    std::vector<PlannedTier> tiers;      ///< level by level, in the order of their columns
    int tierLevels = 0;
    int recordLines = 1;
    std::vector<ComputedTerm> computed;  ///< the computed fields of the schema; each reads only fields before it
    std::vector<SortTerm> sort;
    std::vector<PlannedStyle> styles;      ///< those that are on, in the order in which they apply
    std::vector<PlannedCheck> checks;      ///< the design's, then the database's
    std::vector<PlannedBanner> banners;    ///< the first that holds makes a record one
    std::vector<ExtentTerm> extents;       ///< of the bars in faces and the scales of styles, each once
    std::vector<FieldIndex> recorded;      ///< those whose earlier values are kept for trends, each once
    std::vector<FilterTerm> filter;        ///< of the parts that are on and make sense
    std::vector<std::size_t> filterParts;  ///< by term: its index in the design's filter
    /// What headings show: the field of each key of the design's sort that is one, with its number and direction.
    struct SortMark {
        FieldIndex field{};
        int rank = 1;
        Direction direction = Direction::Ascending;
    };
    std::vector<SortMark> sortMarks;
    std::vector<FieldIndex> filterMarks;  ///< fields that some condition reads
    std::shared_ptr<const Grouping> grouping = std::make_shared<const Grouping>();  ///< never null
    std::vector<bool> wanted;                                                       ///< by field: must be loaded
    std::vector<Finding> findings;
};

/// Never fails: a column or key whose field is missing is left out and becomes a finding with the likely new name; a
/// wrong format becomes one, and the column is shown by type. Formatters of `previous` are used again where they fit.
/// Requires: the design's tiers are settled (settleTiers), else columns of one tier may be shown apart. O(columns *
/// tiers).
ViewPlan planOf(const Design& design, const TableSchema& schema, const ViewPlan* previous = nullptr,
                const Registered* registered = nullptr);

/// Related fields ("vessel.name") that a design shows, sorts by, computes with or writes into messages, labels of its
/// look-ups included; each once, in the order met. `schema` is the table's own.
std::vector<std::string> relatedFields(const Design& design, const TableSchema& schema);

/// The terms of one key of a design: several for a named rule. The error says what is wrong.
Result<std::vector<SortTerm>> sortTermsOf(const Design& design, const SortDesign& key, const TableSchema& schema,
                                          const Registered* registered = nullptr);
/// One key that is a field or a rule; a look-up is meant by its label.
Result<SortTerm> keyTermOf(const Design& design, const SortDesign& key, const TableSchema& schema,
                           const Registered* registered = nullptr);
/// Parameters at opening, read by their types; those that cannot be read are left out.
std::map<std::string, RuleValue> parametersOf(const Design& design);

/// Marks the fields that a plan's columns, conditions and sort keys read, and what computed ones are computed from.
/// Requires: `wanted` has one entry a field.
void addFieldsRead(const ViewPlan& plan, std::vector<bool>& wanted);

/// The foreign key of one field, as an index into schema.foreignKeys.
std::optional<std::size_t> foreignKeyOf(const TableSchema& schema, std::string_view field);

/// The format a column's settings amount to, and its Formatter or what is wrong with them.
TextFormat textFormatOf(const Design& design, const ColumnDesign& column, const FieldSchema& field);
Result<std::shared_ptr<const Formatter>> formatterFor(const TextFormat& format, const TableSchema& schema,
                                                      const Design& design);

}  // namespace jollyrow
