// SPDX-License-Identifier: MIT
#pragma once
// SummaryPopover: the figures as cards: what of which column, how it is written, and where it stands.

#include "core/columns/schema.h"
#include "core/design/design.h"
#include "workbench/app/design_change.h"
#include "workbench/popovers/popover.h"

class QHBoxLayout;
class QLabel;
class QVBoxLayout;

namespace jollyrow {

class Grid;

class SummaryPopover final : public Popover {
    Q_OBJECT
  public:
    SummaryPopover(QWidget* window, const Design& design, Grid& grid);
    /// After undo, or a drop on the station while open.
    void setDesign(const Design& design);

  Q_SIGNALS:
    void changed(const jollyrow::DesignChange& change, const QString& label);
    void bypassed(bool on);
    /// The figures are wanted as a table.
    void tableWanted();

  private:
    void rebuild();
    QWidget* card(std::size_t index);
    void addWhat(QHBoxLayout& row, std::size_t index);
    QWidget* showPick(std::size_t index);
    QWidget* percentEntry(std::size_t index);
    QWidget* fieldPick(const QString& name, std::size_t index, const std::string& current,
                       const std::function<bool(const FieldSchema&)>& fits,
                       std::function<void(SummaryDesign&, const std::string&)> set);
    QWidget* underPick(std::size_t index);
    QWidget* titleOf(std::size_t index, QWidget* card);
    void addButtons(QHBoxLayout& row, std::size_t index, QWidget* card);
    QWidget* styleBox(std::size_t index);
    void addLook(QVBoxLayout& card, std::size_t index);
    void addPlaces(QVBoxLayout& card, std::size_t index);
    void addRule(QVBoxLayout& card, std::size_t index);
    void addTotals(QVBoxLayout& list);
    void addTotalsLook(QVBoxLayout& list);
    void addPick(QHBoxLayout& foot);
    void take(Design next, const QString& label);
    /// The same without building the cards anew, while one types in one.
    void type(Design next, const QString& label);
    void showFacts();
    Type typeOf(const std::string& field) const;
    QString headingOf(const std::string& field) const;
    QString wordsOf(const SummaryDesign& summary) const;

    Design design_;
    Grid& grid_;
    TableSchema schema_;
    QWidget* cards_ = nullptr;
    QLabel* facts_ = nullptr;
    QLabel* problem_ = nullptr;
    std::size_t open_ = 0;  ///< the card that is unfolded
    bool typing_ = false;
};

}  // namespace jollyrow
