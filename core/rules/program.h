// SPDX-License-Identifier: MIT
#pragma once
// Program: a rule met with a schema: names resolved, types settled, conversions written in. The instructions stand in
// the order of evaluation, each naming earlier ones as its operands. Immutable, so any thread may run it.

#include <cstdint>
#include <functional>
#include <memory>
#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <vector>

#include "core/base/result.h"
#include "core/columns/schema.h"
#include "core/columns/time_zone.h"
#include "core/rules/op.h"
#include "core/rules/rule_type.h"
#include "core/rules/syntax.h"
#include "core/rules/window_frame.h"

namespace jollyrow {

/// A function of the application, called once a record with boxed values. Called from any thread, several at once.
struct ExternalFunction {
    std::string name;  ///< how rules call it; its case does not matter
    std::vector<RuleKind> arguments;
    RuleKind result = RuleKind::Boolean;
    /// Calls with an empty argument give empty without asking, unless this is set.
    bool takesEmpties = false;
    /// The same arguments always give the same result: it may then be called once for each distinct text instead of
    /// once a record, and once where all arguments are constants.
    bool isPure = false;
    std::function<Result<RuleValue>(std::span<const RuleValue>)> call;
};

/// What an aggregate of the application has seen so far. Used by one thread at a time.
class AggregateState {
  public:
    virtual ~AggregateState() = default;
    /// Never Empty: empties are left out.
    virtual void add(const RuleValue& value) = 0;
    /// Takes in what another state has seen, for groups that are put together from parts.
    virtual void merge(const AggregateState& other) = 0;
    /// Empty for "no value"; an Error makes the cell say that the function failed.
    virtual Result<RuleValue> finish() const = 0;
};
/// An aggregate of the application: `spread(hours) OVER (PARTITION BY status)`.
struct ExternalAggregate {
    std::string name;
    RuleKind argument = RuleKind::Real;
    RuleKind result = RuleKind::Real;
    std::function<std::unique_ptr<AggregateState>()> begin;  ///< never gives null; called from any thread
};

/// A rule with arguments, called by name in other rules: `is_even(hours)` with the rule `MOD(value, 2) = 0`.
struct RuleFunction {
    std::string name;
    std::vector<std::string> arguments;  ///< by these names its rule speaks of them
    std::string rule;
};

/// What a rule may name besides columns.
struct RuleVocabulary {
    std::vector<std::shared_ptr<const ExternalFunction>> externals;
    std::vector<std::shared_ptr<const ExternalAggregate>> aggregates;
    std::vector<RuleFunction> functions;
    struct Parameter {
        std::string name;
        RuleKind kind = RuleKind::Text;
    };
    std::vector<Parameter> parameters;
};

struct Instruction {
    Op op{};
    RuleType type;
    std::vector<std::uint32_t> operands = {};
    TextRange range = {};
    RuleValue constant = {};  ///< of Constant
    std::uint32_t index = 0;  ///< of Load: the field; of Parameter, External, Window: which one
    DatePart part{};          ///< of Extract and TruncateTime
    std::uint8_t bits = 0;    ///< of a Cast to a whole number of 16 bits or a double of 24; 0 = all 64
    int precision = -1;       ///< of a Cast to DECIMAL(p, s) or VARCHAR(p); -1 = without
};

/// An aggregate over all records, by instruction numbers.
struct WindowSpec {
    Aggregate aggregate{};
    std::shared_ptr<const ExternalAggregate> external;  ///< of Aggregate::External
    RuleType type;
    std::vector<std::uint32_t> arguments;
    std::vector<std::uint32_t> partition;
    std::vector<std::uint32_t> order;
    std::vector<bool> descending;
    std::vector<bool> emptiesFirst;
    WindowFrame frame;                     ///< without an order all records of the partition
    std::vector<std::uint32_t> distances;  ///< of the frame's bounds that have one, the begin's first
    /// Calls visit(ref) for the number of every instruction that is named here.
    template <class Spec, class Visit>
    static void eachRef(Spec& spec, const Visit& visit) {
        for (auto* refs : {&spec.arguments, &spec.partition, &spec.order, &spec.distances})
            for (auto& ref : *refs) visit(ref);
    }
};

struct Program {
    std::vector<Instruction> code;  ///< the last one gives the result
    std::vector<WindowSpec> windows;
    std::vector<std::shared_ptr<const ExternalFunction>> externals;
    std::vector<RuleVocabulary::Parameter> parameters;  ///< those that are used
    std::vector<FieldIndex> fields;                     ///< those that are read, each once
    const TimeZone* zone = &TimeZone::machine();        ///< dates and times without a zone are those of its clocks

    RuleType type() const { return code.back().type; }
    /// One instruction a line: "%2 = > %0 %1 : boolean".
    std::string dump() const;
};

/// Literals that were converted leave instructions that nobody reads: takes out what `root` does not need, so that it
/// stands last. O(instructions).
void dropUnused(Program& program, std::uint32_t root);

/// Do they compute the same from the same fields? Null is like null only. O(instructions).
bool sameMeaning(const std::shared_ptr<const Program>& a, const std::shared_ptr<const Program>& b);

/// Is the whole number that instruction `of` gives one of 32 bits to PostgreSQL, so that its SUM is whole as well? One
/// that reads a column of 64 bits, or of no stated size, is not: its SUM is numeric there. O(instructions).
bool sumsToWhole(std::span<const Instruction> code, std::uint32_t of, const TableSchema& schema);

struct BindOptions {
    std::optional<RuleKind> expected;  ///< the result must be of this kind (Boolean for a condition)
    bool isSortKey = false;            ///< what it gives is to be ordered: COLLATE and the order of enums count
    SyntaxLimits limits = {};
};

/// Text to program. Errors name the place, the expected type and near names. Unquoted names ignore case.
/// O(length + fields).
Result<std::shared_ptr<const Program>> compileRule(std::string_view text, const TableSchema& schema,
                                                   const RuleVocabulary& vocabulary = {},
                                                   const BindOptions& options = {});
Result<std::shared_ptr<const Program>> bindRule(const Syntax& syntax, const TableSchema& schema,
                                                const RuleVocabulary& vocabulary = {}, const BindOptions& options = {});

/// The field a name in a rule means; unquoted ones ignore case.
std::optional<FieldIndex> findField(const TableSchema& schema, std::string_view name, bool quoted);

}  // namespace jollyrow
