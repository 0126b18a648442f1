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

/// `LOWER(column) LIKE '%text%'` over the folded texts as one buffer: one search from hit to hit, each hit's text found
/// by walking on. False when the rule is not that or some cells are edited.
bool Evaluation::containsInAll(const Instruction& like, const std::vector<Instruction>& code, std::uint32_t foldedAt,
                               const FoldedTexts& folded, Lift& lift) {
    if (like.op != Op::Like || like.operands.size() != 2 || like.operands[0] != foldedAt || lift.domain.edits)
        return false;
    const Instruction& constant = code[like.operands[1]];
    const auto* text = constant.op == Op::Constant ? std::get_if<std::string>(&constant.constant) : nullptr;
    const auto pattern = text ? LikePattern::make(*text, "\\") : std::nullopt;
    const std::string* part = pattern ? pattern->contained() : nullptr;
    if (!part || part->empty()) return false;
    const std::size_t distinct = lift.domain.distinct();
    lift.kind = RuleKind::Boolean;
    lift.booleans.assign(distinct + 1, 0);
    lift.states.assign(distinct + 1, 0);
    lift.states[distinct] = static_cast<std::uint8_t>(CellState::Empty);
    lift.allFilled = false;
    const char* const end = folded.bytes.data() + folded.bytes.size();
    std::size_t at = 0;
    for (const char* from = folded.bytes.data(); from < end;) {
        const auto* hit =
            static_cast<const char*>(memmem(from, static_cast<std::size_t>(end - from), part->data(), part->size()));
        if (!hit) break;
        while (folded.views[at].data() + folded.views[at].size() <= hit) ++at;
        const char* const textEnd = folded.views[at].data() + folded.views[at].size();
        // A hit that runs into the next text is none; the next may begin one byte on.
        const bool inside = hit + part->size() <= textEnd;
        if (inside) lift.booleans[at] = 1;
        from = inside ? textEnd : hit + 1;
    }
    return true;
}

Result<void> Evaluation::makeLifts(const Cancel& cancel) {
    if (input_.forFew) return {};
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
        auto lift = std::make_unique<Lift>();
        lift->domain.field = static_cast<std::uint32_t>(source[at]);
        lift->domain.column = input_.table->columns[lift->domain.field].get();
        lift->domain.dictionary = &std::get<TextDictionary>(lift->domain.column->storage());
        lift->domain.edits = editsOf(lift->domain.field);
        Runner runner(*this, static_cast<std::uint32_t>(at), &lift->domain);
        // Folded texts that are known already, or will be wanted again.
        std::shared_ptr<const FoldedTexts> folded;
        std::uint32_t foldedAt = 0;
        for (const std::uint32_t inner : runner.order_) {
            const Op op = code[inner].op;
            if ((op != Op::Lower && op != Op::Upper) || code[code[inner].operands[0]].op != Op::Load || !input_.folds ||
                inner == at)
                continue;
            const std::uint64_t id = lift->domain.column->id();
            folded = input_.folds->find(id, op);
            if (!folded) {
                auto made = std::make_shared<FoldedTexts>();
                Runner folding(*this, inner, &lift->domain);
                const std::size_t distinct = lift->domain.distinct();
                std::vector<std::size_t> ends;
                ends.reserve(distinct);
                for (std::size_t begin = 0; begin < distinct; begin += kBatch) {
                    if (cancel.requested()) return Error{ErrorCode::Cancelled, "Stopped."};
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
                folded = std::move(made);
                input_.folds->put(id, op, folded);
            }
            foldedAt = inner;
            break;
        }
        if (folded && containsInAll(code[at], code, foldedAt, *folded, *lift)) {
            lifts[at] = std::move(lift);
            continue;
        }
        const std::size_t size = lift->domain.size();
        std::size_t keptBytes = 0;
        const auto append = [](auto& to, const auto* from, std::size_t n, bool constant) {
            if (constant)
                to.insert(to.end(), n, from[0]);
            else
                to.insert(to.end(), from, from + n);
        };
        for (std::size_t begin = 0; begin < size; begin += kBatch) {
            if (cancel.requested()) return Error{ErrorCode::Cancelled, "Stopped."};
            const std::size_t count = std::min(kBatch, size - begin);
            for (const std::uint32_t inner : runner.order_) {
                if (folded && begin + count <= lift->domain.distinct()) {
                    if (inner == foldedAt) {
                        Vector& out = runner.vectors_[inner];
                        out.kind = RuleKind::Text;
                        out.states = nullptr;
                        out.texts = folded->views.data() + begin;
                        continue;
                    }
                    if (inner == code[foldedAt].operands[0] && runner.order_.size() <= 6) {
                        // Only the folded texts are read in the usual short rules; loading costs little in others.
                        bool readElsewhere = false;
                        for (const std::uint32_t other : runner.order_)
                            for (const std::uint32_t ref : code[other].operands)
                                readElsewhere = readElsewhere || (ref == inner && other != foldedAt);
                        if (!readElsewhere) continue;
                    }
                }
                runner.execute(inner, begin, count);
            }
            const Vector& result = runner.vectors_[at];
            lift->kind = result.kind;
            if (result.kind == RuleKind::Decimal) {
                // One form for all: wide ones.
                lift->wide = true;
                for (std::size_t i = 0; i < count; ++i)
                    lift->wides.push_back(result.state(i) == CellState::Filled ? result.decimal(i) : WideDecimal{});
            } else if (result.kind == RuleKind::Boolean) {
                append(lift->booleans, result.booleans, count, result.constant);
            } else if (result.kind == RuleKind::Real) {
                append(lift->reals, result.reals, count, result.constant);
            } else if (result.kind == RuleKind::Interval) {
                append(lift->intervals, result.intervals, count, result.constant);
            } else if (result.kind == RuleKind::Text || result.kind == RuleKind::Null) {
                for (std::size_t i = 0; i < count; ++i) {
                    if (result.state(i) != CellState::Filled) {
                        lift->texts.emplace_back();
                        continue;
                    }
                    keptBytes += result.texts[result.at(i)].size();
                    if (keptBytes > kMostBatchBytes)
                        return Error{
                            ErrorCode::InvalidInput,
                            "The texts that the rule makes take more than 256 MB together; let it make shorter "
                            "ones."};
                    lift->keptTexts.emplace_back(result.texts[result.at(i)]);
                    lift->texts.push_back(lift->keptTexts.back());
                }
            } else {
                append(lift->integers, result.integers, count, result.constant);
            }
            for (std::size_t i = 0; i < count; ++i) {
                const auto state = static_cast<std::uint8_t>(result.state(i));
                lift->states.push_back(state);
                lift->allFilled = lift->allFilled && state == 0;
            }
        }
        lifts[at] = std::move(lift);
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
