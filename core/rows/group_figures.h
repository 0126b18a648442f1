// SPDX-License-Identifier: MIT
#pragma once
// Figures: what one summary gives for each group of a tree and for all records. Immutable; any thread may read it. A
// figure is made when it is asked for: of two hundred thousand groups a window shows some forty.

#include <cstdint>
#include <memory>
#include <utility>
#include <vector>

#include "core/rules/evaluator.h"

namespace jollyrow {

class Figures {
  public:
    virtual ~Figures() = default;
    /// Of a node of the tree, or of all records for nodes.size(). O(1).
    virtual EvaluatedCell at(std::size_t slot) const = 0;
};

/// Figures that are there already.
class KnownFigures final : public Figures {
  public:
    explicit KnownFigures(std::vector<EvaluatedCell> cells) : cells_(std::move(cells)) {}
    EvaluatedCell at(std::size_t slot) const override { return cells_[slot]; }

  private:
    std::vector<EvaluatedCell> cells_;
};

/// The figures of a tree whose nodes stand in another order: `from` tells by node of this one that of the other.
class MovedFigures final : public Figures {
  public:
    MovedFigures(std::shared_ptr<const Figures> figures, std::shared_ptr<const std::vector<std::uint32_t>> from)
        : figures_(std::move(figures)), from_(std::move(from)) {}
    EvaluatedCell at(std::size_t slot) const override {
        return figures_->at(slot < from_->size() ? (*from_)[slot] : slot);
    }

  private:
    std::shared_ptr<const Figures> figures_;
    std::shared_ptr<const std::vector<std::uint32_t>> from_;
};

}  // namespace jollyrow
