// SPDX-License-Identifier: MIT
#pragma once
// FilterControl: the filter row of the grid. What is typed becomes a condition of the design at once; what cannot be
// read is said under its cell, and the last good condition stays.

#include <functional>
#include <map>

#include "grid/editors/message_strip.h"
#include "grid/filter/filter_row.h"
#include "grid/inside/scroller.h"

namespace jollyrow {

class FilterControl final {
  public:
    struct Hooks {
        std::function<HeadingLayout()> headings;
        std::function<void(int column, bool upwards)> leave;  ///< the keys go to the headings or the records
        std::function<void(const QString& field, const QPoint& global)> openMenu;
        std::function<void(const QPoint& global)> openRowMenu;
        std::function<void(const QString& field)> openPickList;
    };
    FilterControl(GridContext& context, const BodyGeometry& body, Scroller& scroller, Hooks hooks)
        : context_(context), body_(body), scroller_(scroller), hooks_(std::move(hooks)) {}

    /// Pixels that the row takes; 0 when it is hidden.
    int height() const;
    /// Puts the row and what is said under it where they belong.
    void layout();
    /// Takes an entry as it would be typed.
    void enter(const QString& field, const QString& text);
    /// The column's condition as a rule; "" for none.
    void setRule(const QString& field, const std::string& rule, const std::string& entry);
    /// Puts the keys into a column's cell; shows the row when it is hidden. False when the column is not shown.
    bool focus(const QString& field);
    /// Puts the keys back where they were: into the cell when the row has them, else on the grid.
    void focusAgain(const QString& field);
    void clear();
    void hideRow();
    bool hasEntry(const QString& field) const;
    bool hasAny() const { return !context_.design().filter.empty() || !wrong_.empty(); }
    /// What was typed and not understood is forgotten.
    void forgetWrong(const QString& field) { wrong_.erase(field.toStdString()); }
    /// True while a change of the design comes from the row.
    bool isTyping() const { return typing_; }
    FilterRow* row() const { return row_; }

  private:
    void makeRow();
    FilterCell cellOf(int column) const;
    void showProblem();
    void moveFocus(const QString& field, int step);

    GridContext& context_;
    const BodyGeometry& body_;
    Scroller& scroller_;
    Hooks hooks_;
    FilterRow* row_ = nullptr;
    MessageStrip* problem_ = nullptr;
    struct WrongEntry {
        QString text, problem;
    };
    std::map<std::string, WrongEntry> wrong_;  ///< by field: typed and not understood
    bool typing_ = false;
};

}  // namespace jollyrow
