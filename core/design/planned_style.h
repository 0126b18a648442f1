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
    bool isScale() const { return !design.lowest.empty(); }
};

/// Those that are on and can be had; others become findings. O(styles * columns).
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
    LineWeight weight = LineWeight::Theme;
    bool strike = false;
    bool isPlain() const { return !ink && !background && weight == LineWeight::Theme && !strike; }
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
    /// Which record conditions hold, by style, of the records looked at last: they are painted again and again.
    struct Held {
        SourceRow row = kNoRow;
        std::vector<bool> is;
    };
    const std::vector<bool>& heldBy(SourceRow row);
    std::vector<Held> held_;                       ///< by the low bits of the row
    const std::vector<bool>* lastHeld_ = nullptr;  ///< of the record at work
};

}  // namespace jollyrow
