// SPDX-License-Identifier: MIT
#pragma once
// Runs a Program over the records of a table, a batch at a time. An Evaluation is what is made ready once (records,
// parameters, aggregates over all records, results for each distinct text); a Runner holds the vectors of one thread.

#include <cstdint>
#include <map>
#include <memory>
#include <mutex>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

#include "core/base/cancel.h"
#include "core/base/result.h"
#include "core/columns/edits.h"
#include "core/columns/table.h"
#include "core/rules/program.h"
#include "core/rules/vector.h"

namespace jollyrow {

/// Texts of a dictionary in one case, one after the other, by code. Immutable.
struct FoldedTexts {
    std::string bytes;
    std::vector<std::string_view> views;
};

/// Keeps the folded texts of the last few columns, so that searching while one types folds them once. Locked inside.
class FoldCache final {
  public:
    std::shared_ptr<const FoldedTexts> find(std::uint64_t column, Op op) const;
    void put(std::uint64_t column, Op op, std::shared_ptr<const FoldedTexts> texts);

  private:
    static constexpr std::size_t kKept = 6;
    mutable std::mutex mutex_;
    std::map<std::pair<std::uint64_t, Op>, std::shared_ptr<const FoldedTexts>> texts_;  // guarded by mutex_
};

/// One boxed value, or why there is none.
struct EvaluatedCell {
    CellState state = CellState::Empty;
    RuleValue value = Empty{};
};

struct EvaluationInput {
    std::shared_ptr<const Table> table;
    std::shared_ptr<const Edits> edits;           ///< may be null
    std::map<std::string, RuleValue> parameters;  ///< by name; one that is missing is empty
    std::int32_t today = 0;                       ///< CURRENT_DATE, days since 1970-01-01
    std::int64_t now = 0;                         ///< LOCALTIMESTAMP
    FoldCache* folds = nullptr;
    /// Parameters that have a value for each record, e.g. the aggregates of each group; may be null.
    const std::map<std::string, const std::vector<EvaluatedCell>*>* given = nullptr;
    bool forFew = false;  ///< only a few records will be asked for: nothing is made ready for each distinct text
};

/// For keeping what was made: of a program that sums up records, tells apart which rows are records; else 0.
/// O(spare rows + edits).
std::uint64_t presenceOf(const Program& program, const EvaluationInput& input);

class Evaluation final {
  public:
    /// Fails when a column is not loaded, or when cancelled. Aggregates over all records are computed here.
    static Result<std::shared_ptr<const Evaluation>> prepare(std::shared_ptr<const Program> program,
                                                             EvaluationInput input, const Cancel& cancel);
    ~Evaluation();
    const Program& program() const { return *program_; }
    std::size_t rows() const { return input_.table->rows; }

  private:
    friend class Runner;
    friend class LiftMaker;
    friend class WindowMaker;
    struct Lift;
    struct WindowResult;
    struct EditedField {
        std::uint32_t field = 0;
        std::vector<std::pair<std::uint32_t, const Value*>> cells;  ///< by row
    };
    Evaluation(std::shared_ptr<const Program> program, EvaluationInput input);
    Result<void> makeWindows(const Cancel& cancel);
    Result<void> makeLifts(const Cancel& cancel);
    std::vector<std::int64_t> sourcesOf() const;
    const EditedField* editsOf(std::uint32_t field) const;
    /// Instructions to run for this one, in order; stops at what is lifted.
    std::vector<std::uint32_t> orderFor(std::uint32_t target) const;

    std::shared_ptr<const Program> program_;
    EvaluationInput input_;
    std::vector<EditedField> edited_;
    std::vector<std::unique_ptr<Lift>> lifts_;            ///< by instruction, null where there is none
    std::vector<std::unique_ptr<WindowResult>> windows_;  ///< by window
};

/// Confined to one thread; several may share an Evaluation.
class Runner final {
  public:
    explicit Runner(std::shared_ptr<const Evaluation> evaluation);
    ~Runner();
    /// The result for `count` records from `begin` on. Requires: count <= kBatch. Valid until the next call.
    const Vector& run(std::size_t begin, std::size_t count);

  private:
    friend class Evaluation;
    friend class LiftMaker;
    friend class WindowMaker;
    struct Domain;
    Runner(const Evaluation& evaluation, std::uint32_t target, const Domain* domain);
    const Vector& runOrder(std::size_t begin, std::size_t count);
    void execute(std::uint32_t at, std::size_t begin, std::size_t count);
    void load(const Instruction& code, std::size_t begin, std::size_t count, Vector& out);
    void loadDomain(std::size_t begin, std::size_t count, Vector& out);
    void loadWindow(const Instruction& code, std::size_t begin, std::size_t count, Vector& out);
    void gather(const Evaluation::Lift& lift, std::size_t begin, std::size_t count, Vector& out);
    void patchEdits(std::uint32_t field, std::size_t begin, std::size_t count, Vector& out);
    void constant(const RuleValue& value, RuleKind kind, Vector& out);
    void give(const std::vector<EvaluatedCell>& cells, std::size_t begin, std::size_t count, Vector& out);
    void runExternal(const Instruction& code, std::size_t count, Vector& out);
    void compute(const Instruction& code, std::size_t count, Vector& out);

    std::shared_ptr<const Evaluation> keep_;
    const Evaluation& evaluation_;
    std::uint32_t target_;
    const Domain* domain_;
    std::vector<std::uint32_t> order_;
    std::vector<Vector> vectors_;
};

EvaluatedCell cellOf(const Vector& vector, std::size_t i);
/// The rule's value for one record. For edges: prepares anew each time.
Result<EvaluatedCell> evaluateOne(const std::shared_ptr<const Program>& program, const EvaluationInput& input,
                                  SourceRow row);

}  // namespace jollyrow
