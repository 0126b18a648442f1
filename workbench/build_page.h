// SPDX-License-Identifier: MIT
#pragma once
// BuildPage: the Build screen: Rowline, outline, live grid, Fittings. Turns what is done on them into steps of the
// document, and shows the document on all of them.

#include <QPointer>
#include <QWidget>

#include <optional>

#include "core/session/session.h"
#include "grid/grid.h"
#include "workbench/document.h"

namespace jollyrow {

class ColumnsOutline;
class Fittings;
class RowlineBar;
class SortPopover;
class SourcePopover;
class Popover;

class BuildPage final : public QWidget {
    Q_OBJECT
  public:
    BuildPage(Document& document, QWidget* parent = nullptr);
    Grid& grid() { return *grid_; }
    RowlineBar& rowline() { return *rowline_; }
    ColumnsOutline& outline() { return *outline_; }
    Fittings& fittings() { return *fittings_; }
    /// Opens the editor of a station, or closes it when it is the open one.
    void openStation(Stage stage);
    void closePopover();
    void selectColumn(const std::optional<QString>& field);
    std::optional<QString> selectedColumn() const { return selected_; }
    /// Steps for the selected column, for keys and the finder.
    void moveSelected(int by);
    void toggleShown(const QString& field);
    void sortSelected(Direction direction);

  Q_SIGNALS:
    void said(const QString& text, bool isError);
    void selectionText(const QString& text);

  private:
    void documentOpened();
    void documentChanged();
    void refreshRowline();
    void refreshFittings();
    void refreshOutline();
    void takeDrop(const QString& field, const QPoint& globalPosition);
    void moveColumn(const QString& field, const QString& before);
    void addColumn(const QString& field);
    void writeCell(const RecordKey& key, const QString& field, const Value& value);
    void openSource();
    QString headingOf(const QString& field) const;
    void showPopover(Popover* popover, Stage stage, int width);
    void resizeEvent(QResizeEvent* event) override;

    Document& document_;
    RowlineBar* rowline_;
    ColumnsOutline* outline_;
    Grid* grid_;
    Fittings* fittings_;
    std::optional<QString> selected_;
    QPointer<SortPopover> sortPopover_;
    QPointer<Popover> popover_;
    std::optional<Stage> openStage_;
};

}  // namespace jollyrow
