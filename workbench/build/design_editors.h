// SPDX-License-Identifier: MIT
#pragma once
// DesignEditors: what opens over the Build screen to change a part of the design: the editors of the Rowline's
// stations, of faces, computed columns, parameters, operators, checks, styles, banners and looks. One at a time; each
// change is a step of the document.

#include <QObject>
#include <QPointer>

#include <optional>

#include "core/rows/snapshot.h"
#include "grid/api/grid.h"
#include "workbench/app/document.h"

namespace jollyrow {

class ComputedPopover;
class FacePopover;
class FilterPopover;
class GroupPopover;
class NamedPopover;
class Popover;
class RowlineBar;
class SortPopover;
class SummaryPopover;

class DesignEditors final : public QObject {
    Q_OBJECT
  public:
    /// Borrows all; `page` is what they open over, and owns this.
    DesignEditors(QWidget& page, Document& document, Grid& grid, RowlineBar& rowline);
    /// Opens the editor of a station, or closes it when it is the open one.
    void openStation(Stage stage);
    void close();
    /// New computed columns come behind this one; "" = behind all.
    void setBehind(const QString& field) { behind_ = field; }
    /// Opens the rule of a computed column; of a new one when there is none.
    void openComputed(const std::optional<QString>& field);
    /// Composes the face of a column.
    void openFace(const QString& field);
    /// The one that is open; null when none is.
    FacePopover* face() const;
    void openParameters();
    void openOperators();
    void openStyles();
    void openBanners();
    void openChecks();
    void openTrigger();
    void openLooks();
    /// The groups and figures as a table of their own.
    void openSummaryTable();

    /// The document's design is another one.
    void setDesign(const Design& design);
    /// The records shown are others.
    void showRecords();
    void showPictures();

  Q_SIGNALS:
    void said(const QString& text, bool isError);
    /// A design that was just written is to be opened.
    void openWanted(const QString& designPath);
    void columnAdded(const QString& field);
    /// A stage is left out, or not any more.
    void bypassed();

  private:
    void openSource();
    void openFigure(int summary, quint32 node, const QRect& where);
    void openNamed(NamedPopover* popover);
    void takeChange(const DesignChange& change, const QString& label);
    void showPopover(Popover* popover, Stage stage, int width);

    QWidget& page_;
    Document& document_;
    Grid& grid_;
    RowlineBar& rowline_;
    QString behind_;
    QPointer<SortPopover> sort_;
    QPointer<FilterPopover> filter_;
    QPointer<GroupPopover> group_;
    QPointer<SummaryPopover> summary_;
    QPointer<ComputedPopover> computed_;
    QPointer<FacePopover> face_;
    QPointer<NamedPopover> named_;
    QPointer<Popover> open_;
    std::optional<Stage> openStage_;
};

}  // namespace jollyrow
