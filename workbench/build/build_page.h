// SPDX-License-Identifier: MIT
#pragma once
// BuildPage: the Build screen: Rowline, outline, live grid, Fittings. Turns what is done on them into steps of the
// document, and shows the document on all of them.

#include <QPointer>
#include <QWidget>

#include <optional>

#include "core/base/worker.h"
#include "core/columns/extremes.h"
#include "core/design/tier_tree.h"
#include "core/session/session.h"
#include "grid/api/grid.h"
#include "workbench/app/document.h"

class QSplitter;

namespace jollyrow {

class ColumnsOutline;
class ComputedPopover;
class Fittings;
class RowlineBar;
class FilterPopover;
class FilterWords;
class NamedPopover;
class ParameterBar;
class GroupPopover;
class SortPopover;
class FacePopover;
class SummaryPopover;
struct Station;
class SourcePopover;
class Popover;

class BuildPage final : public QWidget {
    Q_OBJECT
  public:
    BuildPage(Document& document, QWidget* parent = nullptr);
    ~BuildPage() override;
    Grid& grid() { return *grid_; }
    RowlineBar& rowline() { return *rowline_; }
    FilterWords& words() { return *words_; }
    ParameterBar& parameters() { return *parameters_; }
    ColumnsOutline& outline() { return *outline_; }
    Fittings& fittings() { return *fittings_; }
    /// How broad the panels beside the grid are, to be kept and set again; unknown bytes change nothing.
    QByteArray panelWidths() const;
    void setPanelWidths(const QByteArray& kept);
    /// Opens the editor of a station, or closes it when it is the open one.
    void openStation(Stage stage);
    void closePopover();
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
    /// Opens the rule of a computed column; of a new one, behind the selected, when there is none.
    void openComputed(const std::optional<QString>& field);
    /// Another level of groups, or a figure, by the usual of what suits the column.
    void groupByColumn(const QString& field);
    void sumUpColumn(const QString& field);
    /// The groups and figures as a table of their own.
    void openSummaryTable();
    void openParameters();
    /// Composes the face of a column.
    void openFace(const QString& field);
    /// The one that is open; null when none is.
    FacePopover* facePopover() const;
    void openOperators();
    void openStyles();
    void openBanners();
    void openChecks();
    void openTrigger();
    void openLooks();
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
    Station groupStation() const;
    Station summariesStation() const;
    void openFigure(int summary, quint32 node, const QRect& where);
    void takeDrop(const QString& field, const QPoint& globalPosition);
    void extendSelection(const QString& field, Qt::KeyboardModifiers modifiers);
    void applyMove(const std::vector<std::string>& fields, const QString& tier, const Landing& to);
    void findExtremes();
    void addColumn(const QString& field);
    Document::RecordStep carryRecords(bool forward);
    void openSource();
    void openNamed(NamedPopover* popover);
    QString headingOf(const QString& field) const;
    void takeChange(const DesignChange& change, const QString& label);
    void showPopover(Popover* popover, Stage stage, int width);
    void resizeEvent(QResizeEvent* event) override;

    Document& document_;
    RowlineBar* rowline_;
    QSplitter* panels_;
    ColumnsOutline* outline_;
    Grid* grid_;
    ParameterBar* parameters_;
    FilterWords* words_;
    Fittings* fittings_;
    std::vector<QString> selected_;
    std::optional<QString> selectedTier_;
    Extremes extremes_;
    std::uint64_t extremesOf_ = 0;  ///< id of the column they were found in, or are being
    std::unique_ptr<Worker> finder_;
    QPointer<SortPopover> sortPopover_;
    QPointer<FilterPopover> filterPopover_;
    QPointer<GroupPopover> groupPopover_;
    QPointer<SummaryPopover> summaryPopover_;
    QPointer<ComputedPopover> computedPopover_;
    QPointer<FacePopover> facePopover_;
    QPointer<NamedPopover> namedPopover_;
    QPointer<Popover> popover_;
    std::optional<Stage> openStage_;
};

}  // namespace jollyrow
