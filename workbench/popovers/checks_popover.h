// SPDX-License-Identifier: MIT
#pragma once
// ChecksPopover: what records must not break when they are edited: a rule a card, where it is said, in which words,
// whether it may be overridden, and how many records break it today.

#include "workbench/popovers/named_popover.h"

class QHBoxLayout;

namespace jollyrow {

class Grid;

class ChecksPopover final : public NamedPopover {
    Q_OBJECT
  public:
    ChecksPopover(QWidget* window, const Design& design, Grid& grid);

  protected:
    void fill(QVBoxLayout& list) override;
    std::size_t count(const Design& design) const override;

  private:
    void addCard(QVBoxLayout& list, std::size_t index);
    void addHead(QVBoxLayout& card, std::size_t index);
    void addRule(QVBoxLayout& card, std::size_t index);
    void addMessage(QVBoxLayout& card, std::size_t index);
    void addWhere(QHBoxLayout& row, std::size_t index);
    void addDatabases(QVBoxLayout& list);
    void change(std::size_t index, const std::function<void(CheckDesign&)>& act, const QString& label);
    struct Failing {
        QString words;
        bool hasSome = false;
    };
    Failing failing(std::size_t index) const;

    Grid& grid_;
};

}  // namespace jollyrow
