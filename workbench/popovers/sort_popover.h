// SPDX-License-Identifier: MIT
#pragma once
// SortPopover: the sort keys as cards: what by, which way, where empties go, which comes first.

#include "core/columns/schema.h"
#include "core/design/design.h"
#include "workbench/app/design_change.h"
#include "workbench/popovers/popover.h"

class QComboBox;
class QHBoxLayout;

namespace jollyrow {

class Grid;

class SortPopover final : public Popover {
    Q_OBJECT
  public:
    SortPopover(QWidget* window, const Design& design, Grid& grid);
    /// After undo, or a click on a heading while open.
    void setDesign(const Design& design);

  Q_SIGNALS:
    void changed(const jollyrow::DesignChange& change, const QString& label);
    void bypassed(bool on);

  private:
    void rebuild();
    QComboBox* keyBox();
    void fillFoot(QHBoxLayout& foot);
    QWidget* keyCard(std::size_t index);
    void setKeys(std::vector<SortDesign> keys, const QString& label);
    /// The key's row beneath its title: the expression, or the values in their order.
    void addRule(class QVBoxLayout& card, std::size_t index);
    void addValues(class QVBoxLayout& card, std::size_t index);
    void addDirections(QHBoxLayout& row, std::size_t index);
    void addButtons(QHBoxLayout& row, std::size_t index, QWidget* card);
    void addStrength(QHBoxLayout& row, std::size_t index);
    void addTextOrder(class QHBoxLayout& row, std::size_t index);
    void take(Design next, const QString& label);
    void keepAsRule(const std::string& name);
    void addNamed(class QHBoxLayout& row, std::size_t index);
    void askForValues(std::size_t index);
    void showTime();
    Type typeOf(const SortDesign& key) const;
    std::string firstRule() const;
    QString titleOf(const SortDesign& key) const;
    QString headingOf(const std::string& field) const;
    Design design_;
    Grid& grid_;
    TableSchema schema_;
    QWidget* cards_ = nullptr;
    class QLabel* time_ = nullptr;
    bool typing_ = false;
};

}  // namespace jollyrow
