// SPDX-License-Identifier: MIT
#pragma once
// FaceReader: what the parts of a face hold for a record: which are shown, their texts and numbers, the rule that
// holds. What is painted, measured, found, copied and read aloud comes from here.

#include <memory>
#include <string>
#include <vector>

#include "core/columns/number_list.h"
#include "core/design/planned_face.h"
#include "core/rows/snapshot.h"
#include "core/rules/evaluator.h"

namespace jollyrow {

struct PartContent {
    bool isShown = false;
    bool isMisfit = false;        ///< what is stored cannot be shown so: it is written as it is
    std::string text;             ///< for people; of a mark the words of its rule
    std::vector<double> numbers;  ///< of a bar, a trend, a rating; NaN is a gap
    Extent ends;                  ///< of a bar
    std::string longest;          ///< of a bar: the longer text of the ends of its numbers
    int rule = -1;                ///< the first that holds
};

/// Reused from cell to cell.
struct FaceContent {
    SourceRow row{};                 ///< whose it is
    std::vector<PartContent> parts;  ///< by part of the plan; those within one that is not shown are not
    bool isPending = false;          ///< a field is still to come
};

/// A condition over one record at a time. Confined to one thread.
class RecordCondition final {
  public:
    /// Null for no program, and while a column that it reads is still to come.
    static std::unique_ptr<RecordCondition> make(const std::shared_ptr<const Program>& program,
                                                 const Snapshot& snapshot);
    /// Empty and failed conditions do not hold.
    bool holds(SourceRow row);

  private:
    explicit RecordCondition(std::shared_ptr<const Evaluation> evaluation) : runner_(std::move(evaluation)) {}
    Runner runner_;
};

/// Confined to one thread. Holds what it reads from.
class FaceReader final {
  public:
    /// Makes the rules ready. O(rules).
    FaceReader(const Snapshot& snapshot, std::shared_ptr<const PlannedFace> face);
    ~FaceReader();
    void read(SourceRow row, FaceContent& out);
    /// The texts of what is shown, in order, as one.
    void appendText(const FaceContent& content, std::string& out) const;
    /// Of a part that has one; "" otherwise.
    std::string toolTip(SourceRow row, std::size_t part) const;
    /// The address that a link opens, values in it percent-encoded unless it is one alone (RFC 3986); "" without one.
    std::string address(SourceRow row, std::size_t part) const;
    /// One part of a stacked bar in words: "Hours: 12.50". Requires: index of one of its numbers.
    std::string stackedText(SourceRow row, std::size_t part, std::size_t index) const;
    const PlannedFace& face() const { return *face_; }
    /// Of a bar: between which ends all records stand, and the longer text of the ends of its numbers.
    const Extent& ends(std::size_t part) const { return ends_[part]; }
    const std::string& longest(std::size_t part) const { return longest_[part]; }

  private:
    std::string said(SourceRow row, const std::shared_ptr<const Formatter>& message) const;
    void readListed(SourceRow row, const PlannedPart& part, PartContent& out) const;
    std::size_t readPart(SourceRow row, std::size_t index, FaceContent& out);
    void readContent(SourceRow row, const PlannedPart& part, PartContent& out) const;
    void readNumbers(SourceRow row, const PlannedPart& part, PartContent& out) const;
    Value valueOf(SourceRow row, FieldIndex field) const;

    std::shared_ptr<const PlannedFace> face_;
    std::shared_ptr<const Table> table_;
    std::shared_ptr<const Edits> edits_;
    std::shared_ptr<const RecordedValues> recorded_;                    ///< may be null
    std::vector<Extent> ends_;                                          ///< by part
    std::vector<std::string> longest_;                                  ///< by part
    std::vector<std::unique_ptr<RecordCondition>> shownWhen_;           ///< by part; null: always
    std::vector<std::vector<std::unique_ptr<RecordCondition>>> rules_;  ///< by part, by rule; null: always
    bool isPending_ = false;
};

}  // namespace jollyrow
