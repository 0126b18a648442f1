// SPDX-License-Identifier: MIT
#pragma once
// StylesPopover: what cells or records look like where a condition holds, a card each, in the order in which they
// apply.

#include "workbench/popovers/named_popover.h"

class QHBoxLayout;

namespace jollyrow {

class Grid;

class StylesPopover final : public NamedPopover {
    Q_OBJECT
  public:
    StylesPopover(QWidget* window, const Design& design, Grid& grid);

  protected:
    void fill(QVBoxLayout& list) override;
    std::size_t count(const Design& design) const override;

  private:
    void addCard(QVBoxLayout& list, std::size_t index);
    void addHead(QHBoxLayout& row, std::size_t index);
    void addCondition(QVBoxLayout& card, std::size_t index);
    void addColumns(QHBoxLayout& row, std::size_t index);
    void addLook(QHBoxLayout& row, std::size_t index);
    void addLines(QHBoxLayout& row, std::size_t index);
    void addSwitches(QHBoxLayout& row, std::size_t index);
    void addScale(QHBoxLayout& row, std::size_t index);
    void addIcons(QHBoxLayout& row, std::size_t index);
    class CheckBox* addCheck(QHBoxLayout& row, std::size_t index, const QString& words, bool is,
                             const std::function<void(StyleDesign&, bool)>& act, const QString& label);
    void change(std::size_t index, const std::function<void(StyleDesign&)>& act, const QString& label,
                bool anew = false);
    void add();
    QString cellsMet(std::size_t index) const;
    QString linesMet(const StyleDesign& style) const;

    Grid& grid_;
};

}  // namespace jollyrow
