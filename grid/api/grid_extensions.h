// SPDX-License-Identifier: MIT
#pragma once
// GridExtensions: functions of the application in a grid (grid/api/extending.h): editors, checks, what becomes of
// saves, functions that rules call: `grid.extensions().setCheck(…)`. A handle: a value, without a state of its own.
// Requires: the grid outlives it. Window's thread.

#include <QString>

#include <chrono>
#include <functional>

#include "core/rules/program.h"
#include "core/rules/sort_term.h"
#include "grid/api/extending.h"
#include "grid/editors/editor.h"

namespace jollyrow {

class GridPrivate;

class GridExtensions final {
  public:
    explicit GridExtensions(GridPrivate& grid) : d_(&grid) {}

    /// The editor of a column, by a function of the application; an empty one: the ready one by its type.
    void setEditor(const QString& field, EditorFactory factory);
    enum class CheckStrength { Error, Warning };
    /// A check of each record that is edited, besides the design's: `check` says what is wrong, empty when nothing. At
    /// `field`; empty: at the record. Takes the place of one of the same name; without a function there is none.
    void setCheck(const QString& name, const QString& field, std::function<QString(const EditedRecord&)> check,
                  CheckStrength strength = CheckStrength::Error);
    /// One that answers later: until then the record waits, marked, and is not saved. Past `limit` it counts as wrong,
    /// and is asked again when the record is edited again.
    void setCheckLater(const QString& name, const QString& field,
                       std::function<void(const EditedRecord&, const CheckAnswer&)> ask,
                       std::chrono::milliseconds limit = std::chrono::seconds(10));
    /// A function that rules call by its name (`is_tidal(berth)`), wherever a rule may stand; an aggregate, for figures
    /// and windows (`spread(hours)`); an order that sort keys name (SortDesign::comparator). One of the same name takes
    /// its place. They are called on workers, several at a time; where one throws, the cell says that the function
    /// failed, and an order takes the two for equal. Before open(): a design that names one which is not there has a
    /// finding.
    void registerFunction(ExternalFunction function);
    void registerAggregate(ExternalAggregate aggregate);
    void registerComparator(ValueComparator comparator);

    /// Decides what becomes of each save, before the database is asked or in its place; an empty one: the database.
    void setSaver(SaveFunction saver);

  private:
    void addCheck(RecordCheck check);

    GridPrivate* d_;
};

}  // namespace jollyrow
