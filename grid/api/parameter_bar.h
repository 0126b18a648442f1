// SPDX-License-Identifier: MIT
#pragma once
// ParameterBar: a line above a grid with an entry for each parameter of its design (`:name` in rules or in a bound
// SELECT), by its type or by that of the field that it is like: a calendar, a choice, a look-up with search, yes or no.
// Typing filters at once; an empty entry restricts nothing; a wrong one says so and leaves the last good value. Hidden
// while the design has no parameters.
//
//   auto* search = new jollyrow::ParameterBar(grid);   // put above the grid in a layout
//
// Confined to the window's thread. The grid is not owned and may go first.

#include <QPointer>
#include <QWidget>

#include <vector>

#include "core/columns/schema.h"
#include "core/columns/value.h"

#include "core/design/design.h"

class QHBoxLayout;
class QLabel;
class QLineEdit;
class QPushButton;

namespace jollyrow {

class Editor;
class Grid;

class ParameterBar final : public QWidget {
    Q_OBJECT
  public:
    explicit ParameterBar(Grid& grid, QWidget* parent = nullptr);
    /// The entry of a parameter; null when there is none, or when it is a yes/no choice.
    QLineEdit* entry(const QString& name) const;
    /// What is said about wrong entries; empty when all are good.
    QString message() const;

  Q_SIGNALS:
    /// A person set a parameter; an empty value restricts nothing.
    void parameterSet(const QString& name);

  private:
    void refresh();
    QWidget* makeEntry(const ParameterDesign& parameter);
    QWidget* makeYesNo(const ParameterDesign& parameter);
    QWidget* makeLine(const ParameterDesign& parameter);
    Editor* makeEditorFor(const ParameterDesign& parameter);
    void typed(const ParameterDesign& parameter, const QString& text);
    enum class Said { WhenItCanBe, InAnyCase };
    void entered(const ParameterDesign& parameter, const Editor& editor, Said said);
    void take(const ParameterDesign& parameter, const Value& value, const QString& problem);
    void clearAll();
    void showState();

    QPointer<Grid> grid_;
    std::vector<ParameterDesign> shown_;
    std::vector<FieldSchema> likeFields_;     ///< that entries are like, as they were when those were made
    std::vector<QPointer<QWidget>> entries_;  ///< by parameter
    std::vector<QString> problems_;           ///< by parameter
    QLabel* message_;
    QPushButton* clear_;
    QHBoxLayout* row_;
};

}  // namespace jollyrow
