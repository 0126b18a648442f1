// SPDX-License-Identifier: MIT
#pragma once
// GroupPopover: the levels of groups as chips, and the card of one of them: what by and how, in which order, what its
// lines say.

#include "core/columns/schema.h"
#include "core/design/design.h"
#include "workbench/app/design_change.h"
#include "workbench/popovers/popover.h"

class QHBoxLayout;
class QLabel;
class QVBoxLayout;

namespace jollyrow {

class Grid;

class GroupPopover final : public Popover {
    Q_OBJECT
  public:
    GroupPopover(QWidget* window, const Design& design, Grid& grid);
    /// After undo, or a drop on the station while open.
    void setDesign(const Design& design);

  Q_SIGNALS:
    void changed(const jollyrow::DesignChange& change, const QString& label);
    void bypassed(bool on);

  private:
    void rebuild();
    void addLevels(QVBoxLayout& list);
    QWidget* levelCard(std::size_t index);
    void addKind(QHBoxLayout& row, std::size_t index);
    void addOrder(QHBoxLayout& row, std::size_t index);
    void addCuts(QVBoxLayout& card, std::size_t index);
    void addRule(QVBoxLayout& card, std::size_t index);
    void addLineLook(QHBoxLayout& row, std::size_t index, bool footer);
    void addLine(QVBoxLayout& card, std::size_t index);
    void addLook(QVBoxLayout& card, std::size_t index);
    QWidget* levelPick();
    void addIndent(QHBoxLayout& foot);
    void takeOut(int index);
    void move(int from, int to);
    void setGroups(std::vector<GroupDesign> groups, const QString& label);
    /// The same without building the cards anew, while one types or drags in one.
    void typeGroups(std::vector<GroupDesign> groups, const QString& label);
    void showFacts();
    Type typeOf(const GroupDesign& group) const;
    QString titleOf(const GroupDesign& group) const;
    QString headingOf(const std::string& field) const;

    Design design_;
    Grid& grid_;
    TableSchema schema_;
    QWidget* cards_ = nullptr;
    QLabel* facts_ = nullptr;
    QLabel* problem_ = nullptr;
    bool typing_ = false;
    std::size_t chosen_ = 0;    ///< the level whose card is shown
    bool focusChosen_ = false;  ///< its chip has the focus when the cards are built anew
};

}  // namespace jollyrow
