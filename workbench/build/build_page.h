// SPDX-License-Identifier: MIT
#pragma once
// BuildPage: the Build screen: Rowline, outline, live grid, Fittings. Turns what is done on them into steps of the
// document, and shows the document on all of them.

#include <QWidget>

#include <optional>

#include "core/design/tier_tree.h"
#include "core/session/session.h"
#include "grid/api/grid.h"
#include "workbench/app/document.h"
#include "workbench/build/design_editors.h"
#include "workbench/build/extremes_finder.h"

class QSplitter;

namespace jollyrow {

class ColumnsOutline;
class FilterWords;
class Fittings;
class ParameterBar;
class RowlineBar;

class BuildPage final : public QWidget {
    Q_OBJECT
  public:
    BuildPage(Document& document, QWidget* parent = nullptr);
    Grid& grid() { return *grid_; }
    RowlineBar& rowline() { return *rowline_; }
    FilterWords& words() { return *words_; }
    ParameterBar& parameters() { return *parameters_; }
    ColumnsOutline& outline() { return *outline_; }
    Fittings& fittings() { return *fittings_; }
    /// How broad the panels beside the grid are, to be kept and set again; unknown bytes change nothing.
    QByteArray panelWidths() const;
    void setPanelWidths(const QByteArray& kept);
    /// What opens over this screen to change the design.
    DesignEditors& editors() { return *editors_; }
    void selectColumn(const std::optional<QString>& field);
    void selectColumns(const std::vector<QString>& fields);
    void selectTier(const QString& name);
    /// The last one selected; nullopt when none or a tier is.
    std::optional<QString> selectedColumn() const {
        return selected_.empty() ? std::nullopt : std::optional(selected_.back());
    }
    const std::vector<QString>& selectedColumns() const { return selected_; }
    std::optional<QString> selectedTier() const { return selectedTier_; }
    /// Steps for the selected column, for keys and the finder.
    void moveSelected(int by);
    void toggleShown(const QString& field);
    void sortSelected(Direction direction);
    /// Another level of groups, or a figure, by the usual of what suits the column.
    void groupByColumn(const QString& field);
    void sumUpColumn(const QString& field);
    /// A new heading over what is selected, to be named at once.
    void tierOverSelected();
    /// Puts a finding right, as a step of its own.
    void mendFinding(const Finding& finding);

  Q_SIGNALS:
    /// A design that was just written is to be opened.
    void openWanted(const QString& designPath);
    void said(const QString& text, bool isError);
    void selectionText(const QString& text);

  private:
    void connectDocument();
    void connectGrid();
    void connectOutline();
    /// Shows at the station under a dragged heading what a drop would do there.
    void showDrag(const QString& field, const QPoint& at);
    void documentOpened();
    void documentChanged();
    void refreshRowline();
    void refreshFittings();
    void refreshOutline();
    void takeDrop(const QString& field, const QPoint& globalPosition);
    void extendSelection(const QString& field, Qt::KeyboardModifiers modifiers);
    void applyMove(const std::vector<std::string>& fields, const QString& tier, const Landing& to);
    void addColumn(const QString& field);
    Document::RecordStep carryRecords(bool forward);
    QString headingOf(const QString& field) const;
    void resizeEvent(QResizeEvent* event) override;

    Document& document_;
    RowlineBar* rowline_;
    QSplitter* panels_;
    ColumnsOutline* outline_;
    Grid* grid_;
    ParameterBar* parameters_;
    FilterWords* words_;
    Fittings* fittings_;
    DesignEditors* editors_;
    std::vector<QString> selected_;
    std::optional<QString> selectedTier_;
    ExtremesFinder extremes_;
};

}  // namespace jollyrow
