// SPDX-License-Identifier: MIT
#pragma once
// PlannedStyle: a style met with a schema. StyleReader: what the styles of a plan give a cell. Immutable, and confined
// to one thread.

#include <map>
#include <memory>
#include <optional>
#include <vector>

#include "core/design/design.h"
#include "core/design/face_reader.h"
#include "core/design/finding.h"

namespace jollyrow {

struct PlannedStyle {
    StyleDesign design;
    std::vector<FieldIndex> fields;                                ///< of the cells it is for; none: the whole record
    std::shared_ptr<const Program> where;                          ///< of the record; null: always, or by `byField`
    std::map<FieldIndex, std::shared_ptr<const Program>> byField;  ///< of conditions that name `value`
};

/// The styles of records that are on and can be had; others become findings. O(styles * columns).
std::vector<PlannedStyle> plannedStyles(const Design& design, const TableSchema& schema, const Registered* registered,
                                        std::vector<Finding>& findings);
/// The names of fields that styles read.
std::vector<std::string> fieldNamesOf(const std::vector<StyleDesign>& styles);
/// The ends of a scale's column.
ExtentTerm scaleTermOf(FieldIndex field);

/// What applies to a cell; of each property the first style that sets it. Borrows from the plan.
struct CellStyle {
    const StyleDesign* ink = nullptr;
    const StyleDesign* background = nullptr;  ///< of one colour, or a scale
    double part = 0;                          ///< of a scale: 0 at the least value, 1 at the greatest
    const StyleIcon* icon = nullptr;
    const StyleDesign* iconOf = nullptr;  ///< whose it is
    LineWeight weight = LineWeight::Theme;
    bool italic = false;
    bool strike = false;
    bool isPlain() const { return !ink && !background && !icon && weight == LineWeight::Theme && !italic && !strike; }
    bool operator==(const CellStyle&) const = default;
    /// What a style that holds adds. `place`: where the value lies between the least and the greatest; nullopt:
    /// nowhere.
    void add(const StyleDesign& style, std::optional<double> place);
};

class StyleReader final {
  public:
    /// Makes the conditions ready. O(styles). Borrows the styles.
    StyleReader(const Snapshot& snapshot, const std::vector<PlannedStyle>& styles);
    ~StyleReader();
    CellStyle of(SourceRow row, FieldIndex field);

  private:
    bool holds(std::size_t style, SourceRow row, FieldIndex field);
    std::optional<double> partOf(std::size_t style, SourceRow row, FieldIndex field) const;

    const std::vector<PlannedStyle>& styles_;
    std::shared_ptr<const Table> table_;
    std::shared_ptr<const Edits> edits_;
    std::vector<std::unique_ptr<RecordCondition>> where_;                          ///< by style
    std::vector<std::map<FieldIndex, std::unique_ptr<RecordCondition>>> byField_;  ///< by style
    std::vector<bool> isPending_;                                                  ///< by style: a column is to come
    std::map<FieldIndex, Extent> scales_;
    /// Which record conditions hold, by style, of the records looked at last, and what came of them: they are painted
    /// again and again.
    struct Held {
        SourceRow row = kNoRow;
        std::vector<bool> is;
        std::vector<std::optional<CellStyle>> styles;  ///< by `kinds_` of a field
    };
    Held& heldBy(SourceRow row);
    CellStyle made(SourceRow row, FieldIndex field);
    std::vector<Held> held_;                       ///< by the low bits of the row
    const std::vector<bool>* lastHeld_ = nullptr;  ///< of the record at work
    std::vector<std::size_t> kinds_;  ///< by field: 0 for those that no style names, else a number of its own
    std::size_t kindCount_ = 1;
};

}  // namespace jollyrow
