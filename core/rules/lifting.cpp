// SPDX-License-Identifier: MIT
// Lifting: a part of a rule that depends on one dictionary column and nothing else has one result for each distinct
// text, however many records there are. Those parts are found (the largest ones), computed over the distinct texts,
// and gathered by code later. Example: LOWER(customer) LIKE '%berber%' over a million records with 183 000 customers
// searches 183 000 texts. Texts in one case are kept for the next search.
#include <algorithm>
#include <cstring>

#include "core/rules/evaluation_parts.h"
#include "core/rules/kernels.h"
#include "core/rules/like_pattern.h"

namespace jollyrow {
namespace {

constexpr std::int64_t kNothing = -1;  ///< depends on no column
constexpr std::int64_t kMore = -2;     ///< on several, or on something that is not a dictionary

bool isLiftable(const Program& program, const Instruction& code) {
    if (code.op == Op::External) return program.externals[code.index]->isPure;
    return code.op != Op::Window && code.op != Op::Parameter;
}

}  // namespace

Evaluation::Evaluation(std::shared_ptr<const Program> program, EvaluationInput input)
    : program_(std::move(program)), input_(std::move(input)) {
    if (!input_.edits) return;
    for (const auto& [place, edit] : input_.edits->cells()) {
        const std::uint32_t field = raw(place.second);
        if (std::find(program_->fields.begin(), program_->fields.end(), place.second) == program_->fields.end())
            continue;
        auto at = std::find_if(edited_.begin(), edited_.end(), [&](const EditedField& e) { return e.field == field; });
        if (at == edited_.end()) at = edited_.insert(at, {field, {}});
        at->cells.emplace_back(raw(place.first), &edit.value);  // the map is in the order of the rows
    }
}

Evaluation::~Evaluation() = default;

const Evaluation::EditedField* Evaluation::editsOf(std::uint32_t field) const {
    const auto at =
        std::find_if(edited_.begin(), edited_.end(), [field](const EditedField& e) { return e.field == field; });
    return at == edited_.end() ? nullptr : &*at;
}

Result<std::shared_ptr<const Evaluation>> Evaluation::prepare(std::shared_ptr<const Program> program,
                                                              EvaluationInput input, const Cancel& cancel) {
    for (const FieldIndex field : program->fields)
        if (raw(field) >= input.table->columns.size() || !input.table->column(field))
            return Error{ErrorCode::NotFound, "A column that the rule reads is not loaded yet."};
    std::shared_ptr<Evaluation> made(new Evaluation(std::move(program), std::move(input)));
    if (auto done = made->makeWindows(cancel); !done) return done.error();
    if (auto done = made->makeLifts(cancel); !done) return done.error();
    return std::shared_ptr<const Evaluation>(std::move(made));
}

std::vector<std::uint32_t> Evaluation::orderFor(std::uint32_t target) const {
    std::vector<bool> needed(program_->code.size());
    needed[target] = true;
    for (std::uint32_t at = target + 1; at-- > 0;) {
        if (!needed[at] || (at < lifts_.size() && lifts_[at])) continue;
        for (const std::uint32_t ref : program_->code[at].operands) needed[ref] = true;
    }
    std::vector<std::uint32_t> order;
    for (std::uint32_t at = 0; at <= target; ++at)
        if (needed[at]) order.push_back(at);
    return order;
}

/// Computes one part of a rule over the distinct texts of its column.
class LiftMaker final {
  public:
    LiftMaker(const Evaluation& evaluation, std::uint32_t at, Evaluation::Lift& lift, const Cancel& cancel)
        : evaluation_(evaluation),
          code_(evaluation.program_->code),
          at_(at),
          lift_(lift),
          cancel_(cancel),
          runner_(evaluation, at, &lift.domain) {}

    Result<void> make() {
        if (auto folded = findFolded(); !folded) return folded;
        if (folded_ && containsInAll()) return {};
        const std::size_t size = lift_.domain.size();
        for (std::size_t begin = 0; begin < size; begin += kBatch) {
            if (cancel_.requested()) return Error{ErrorCode::Cancelled, "Stopped."};
            const std::size_t count = std::min(kBatch, size - begin);
            run(begin, count);
            if (auto taken = take(runner_.vectors_[at_], count); !taken) return taken;
        }
        return {};
    }

  private:
    Result<void> findFolded();
    Result<void> fold(std::uint32_t inner);
    bool containsInAll();
    bool isReadBesidesFolding(std::uint32_t inner) const;
    void run(std::size_t begin, std::size_t count);
    Result<void> take(const Vector& result, std::size_t count);
    Result<void> takeTexts(const Vector& result, std::size_t count);

    const Evaluation& evaluation_;
    const std::vector<Instruction>& code_;
    std::uint32_t at_;
    Evaluation::Lift& lift_;
    const Cancel& cancel_;
    Runner runner_;
    std::shared_ptr<const FoldedTexts> folded_;  ///< of the column in one case, where the rule asks for it
    std::uint32_t foldedAt_ = 0;
    std::size_t keptBytes_ = 0;
};

/// Folded texts that are known already, or will be wanted again.
Result<void> LiftMaker::findFolded() {
    if (!evaluation_.input_.folds) return {};
    for (const std::uint32_t inner : runner_.order_) {
        const Op op = code_[inner].op;
        if ((op != Op::Lower && op != Op::Upper) || code_[code_[inner].operands[0]].op != Op::Load || inner == at_)
            continue;
        folded_ = evaluation_.input_.folds->find(lift_.domain.column->id(), op);
        foldedAt_ = inner;
        return folded_ ? Result<void>{} : fold(inner);
    }
    return {};
}

Result<void> LiftMaker::fold(std::uint32_t inner) {
    auto made = std::make_shared<FoldedTexts>();
    Runner folding(evaluation_, inner, &lift_.domain);
    const std::size_t distinct = lift_.domain.distinct();
    std::vector<std::size_t> ends;
    ends.reserve(distinct);
    for (std::size_t begin = 0; begin < distinct; begin += kBatch) {
        if (cancel_.requested()) return Error{ErrorCode::Cancelled, "Stopped."};
        const std::size_t count = std::min(kBatch, distinct - begin);
        const Vector& texts = folding.runOrder(begin, count);
        for (std::size_t i = 0; i < count; ++i) {
            made->bytes += texts.texts[i];
            ends.push_back(made->bytes.size());
        }
    }
    std::size_t start = 0;
    made->views.reserve(distinct);
    for (const std::size_t end : ends) {
        made->views.push_back(std::string_view(made->bytes).substr(start, end - start));
        start = end;
    }
    folded_ = std::move(made);
    evaluation_.input_.folds->put(lift_.domain.column->id(), code_[inner].op, folded_);
    return {};
}

/// `LOWER(column) LIKE '%text%'` over the folded texts as one buffer: one search from hit to hit, each hit's text found
/// by walking on. False when the rule is not that or some cells are edited.
bool LiftMaker::containsInAll() {
    const Instruction& like = code_[at_];
    if (like.op != Op::Like || like.operands.size() != 2 || like.operands[0] != foldedAt_ || lift_.domain.edits)
        return false;
    const Instruction& constant = code_[like.operands[1]];
    const auto* text = constant.op == Op::Constant ? std::get_if<std::string>(&constant.constant) : nullptr;
    const auto pattern = text ? LikePattern::make(*text, "\\") : std::nullopt;
    const std::string* part = pattern ? pattern->contained() : nullptr;
    if (!part || part->empty()) return false;
    const std::size_t distinct = lift_.domain.distinct();
    lift_.kind = RuleKind::Boolean;
    lift_.booleans.assign(distinct + 1, 0);
    lift_.states.assign(distinct + 1, 0);
    lift_.states[distinct] = static_cast<std::uint8_t>(CellState::Empty);
    lift_.allFilled = false;
    const char* const end = folded_->bytes.data() + folded_->bytes.size();
    std::size_t at = 0;
    for (const char* from = folded_->bytes.data(); from < end;) {
        const auto* hit =
            static_cast<const char*>(memmem(from, static_cast<std::size_t>(end - from), part->data(), part->size()));
        if (!hit) break;
        while (folded_->views[at].data() + folded_->views[at].size() <= hit) ++at;
        const char* const textEnd = folded_->views[at].data() + folded_->views[at].size();
        // A hit that runs into the next text is none; the next may begin one byte on.
        const bool inside = hit + part->size() <= textEnd;
        if (inside) lift_.booleans[at] = 1;
        from = inside ? textEnd : hit + 1;
    }
    return true;
}

bool LiftMaker::isReadBesidesFolding(std::uint32_t inner) const {
    for (const std::uint32_t other : runner_.order_)
        for (const std::uint32_t ref : code_[other].operands)
            if (ref == inner && other != foldedAt_) return true;
    return false;
}

/// The instructions over a batch of texts; what is folded already is taken, not computed.
void LiftMaker::run(std::size_t begin, std::size_t count) {
    const bool known = folded_ && begin + count <= lift_.domain.distinct();
    for (const std::uint32_t inner : runner_.order_) {
        if (known && inner == foldedAt_) {
            Vector& out = runner_.vectors_[inner];
            out.kind = RuleKind::Text;
            out.states = nullptr;
            out.texts = folded_->views.data() + begin;
            continue;
        }
        // Only the folded texts are read in the usual short rules; loading costs little in others.
        if (known && inner == code_[foldedAt_].operands[0] && runner_.order_.size() <= 6 &&
            !isReadBesidesFolding(inner))
            continue;
        runner_.execute(inner, begin, count);
    }
}

Result<void> LiftMaker::take(const Vector& result, std::size_t count) {
    const auto append = [&](auto& to, const auto* from) {
        if (result.constant)
            to.insert(to.end(), count, from[0]);
        else
            to.insert(to.end(), from, from + count);
    };
    lift_.kind = result.kind;
    if (result.kind == RuleKind::Decimal) {
        // One form for all: wide ones.
        lift_.wide = true;
        for (std::size_t i = 0; i < count; ++i)
            lift_.wides.push_back(result.state(i) == CellState::Filled ? result.decimal(i) : WideDecimal{});
    } else if (result.kind == RuleKind::Boolean) {
        append(lift_.booleans, result.booleans);
    } else if (result.kind == RuleKind::Real) {
        append(lift_.reals, result.reals);
    } else if (result.kind == RuleKind::Interval) {
        append(lift_.intervals, result.intervals);
    } else if (result.kind == RuleKind::Text || result.kind == RuleKind::Null) {
        if (auto taken = takeTexts(result, count); !taken) return taken;
    } else {
        append(lift_.integers, result.integers);
    }
    for (std::size_t i = 0; i < count; ++i) {
        const auto state = static_cast<std::uint8_t>(result.state(i));
        lift_.states.push_back(state);
        lift_.allFilled = lift_.allFilled && state == 0;
    }
    return {};
}

Result<void> LiftMaker::takeTexts(const Vector& result, std::size_t count) {
    for (std::size_t i = 0; i < count; ++i) {
        if (result.state(i) != CellState::Filled) {
            lift_.texts.emplace_back();
            continue;
        }
        keptBytes_ += result.texts[result.at(i)].size();
        if (keptBytes_ > kMostBatchBytes)
            return Error{ErrorCode::InvalidInput,
                         "The texts that the rule makes take more than 256 MB together; let it make shorter ones."};
        lift_.keptTexts.emplace_back(result.texts[result.at(i)]);
        lift_.texts.push_back(lift_.keptTexts.back());
    }
    return {};
}

/// For each instruction the one dictionary column that it depends on, or kNothing or kMore.
std::vector<std::int64_t> Evaluation::sourcesOf() const {
    const auto& code = program_->code;
    std::vector<std::int64_t> source(code.size(), kNothing);
    for (std::size_t at = 0; at < code.size(); ++at) {
        if (code[at].op == Op::Load) {
            const Column& column = *input_.table->columns[code[at].index];
            const auto* dictionary = std::get_if<TextDictionary>(&column.storage());
            const bool pays = dictionary && column.type() == Type::Text && column.misfitCount() == 0 &&
                              dictionary->distinct.size() * 2 <= column.size();
            source[at] = pays ? static_cast<std::int64_t>(code[at].index) : kMore;
        }
        if (!isLiftable(*program_, code[at])) source[at] = kMore;
        for (const std::uint32_t ref : code[at].operands) {
            if (source[ref] == kNothing || source[at] == kMore) continue;
            source[at] = source[at] == kNothing || source[at] == source[ref] ? source[ref] : kMore;
        }
    }
    return source;
}

Result<void> Evaluation::makeLifts(const Cancel& cancel) {
    if (input_.forFew) return {};
    const auto& code = program_->code;
    const std::vector<std::int64_t> source = sourcesOf();
    // The largest: those some needed instruction of more sources uses, or the root.
    std::vector<bool> wanted(code.size());
    std::vector<bool> needed(code.size());
    needed[code.size() - 1] = true;
    for (std::size_t at = code.size(); at-- > 0;) {
        if (!needed[at]) continue;
        if (source[at] >= 0 && code[at].op != Op::Load) {
            wanted[at] = true;
            continue;
        }
        for (const std::uint32_t ref : code[at].operands) needed[ref] = true;
    }
    std::vector<std::unique_ptr<Lift>> lifts(code.size());
    for (std::size_t at = 0; at < code.size(); ++at) {
        if (!wanted[at]) continue;
        lifts[at] = std::make_unique<Lift>();
        Runner::Domain& domain = lifts[at]->domain;
        domain.field = static_cast<std::uint32_t>(source[at]);
        domain.column = input_.table->columns[domain.field].get();
        domain.dictionary = &std::get<TextDictionary>(domain.column->storage());
        domain.edits = editsOf(domain.field);
        if (auto made = LiftMaker(*this, static_cast<std::uint32_t>(at), *lifts[at], cancel).make(); !made)
            return made.error();
    }
    lifts_ = std::move(lifts);
    return {};
}

std::shared_ptr<const FoldedTexts> FoldCache::find(std::uint64_t column, Op op) const {
    const std::lock_guard lock(mutex_);
    const auto found = texts_.find({column, op});
    return found == texts_.end() ? nullptr : found->second;
}

void FoldCache::put(std::uint64_t column, Op op, std::shared_ptr<const FoldedTexts> texts) {
    const std::lock_guard lock(mutex_);
    texts_.insert_or_assign({column, op}, std::move(texts));
    while (texts_.size() > kKept) texts_.erase(texts_.begin());  // ids rise with age
}

}  // namespace jollyrow
