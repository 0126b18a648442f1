// SPDX-License-Identifier: MIT
#pragma once
// FacePopover: composes the face of a column: the cell enlarged, parts to put in, the settings of the one that is
// chosen, and the face on hard records. Every change is in the grid at once, one step each.

#include <memory>
#include <optional>

#include "core/design/face_edit.h"
#include "workbench/app/design_change.h"
#include "workbench/app/document.h"
#include "workbench/popovers/popover.h"

namespace jollyrow {

class Grid;
class FaceStage;
class PartTiles;
class PartFittings;
class HardRecords;
class CellDrawing;

class FacePopover final : public Popover {
    Q_OBJECT
  public:
    /// Of a column that is shown. One without a face of its own begins with that of its type.
    FacePopover(QWidget* window, const Design& design, Grid& grid, const std::string& field);
    ~FacePopover() override;
    void setDesign(const Design& design);
    /// Other values, another order, another record.
    void refresh();
    const std::string& field() const { return field_; }
    FaceStage& stage() { return *stage_; }
    PartTiles& tiles() { return *tiles_; }
    PartFittings& fittings() { return *fittings_; }
    HardRecords& hard() { return *hard_; }
    const FacePath& selected() const { return selected_; }
    void select(const FacePath& path);

  Q_SIGNALS:
    void changed(const jollyrow::DesignChange& change, const QString& label, jollyrow::Joining joining);
    void widthWanted(int pixels);

  private:
    void addStage(class QVBoxLayout& to);
    void addFootLine();
    void addNameLine();
    void showNames();
    void send(const DesignChange& change, const QString& label);
    void apply(FacePart root, const QString& label, Joining joining = Joining::OwnStep);
    void putIn(FacePartKind kind, const std::optional<FaceLanding>& at);
    void remove();
    FacePart root() const;
    QSize cellSize() const;
    SourceRow shownRow() const;
    void showPart();

    Design design_;
    Grid& grid_;
    std::string field_;
    FacePath selected_;
    std::optional<SourceRow> row_;
    std::unique_ptr<CellDrawing> drawing_, hardDrawing_;
    FaceStage* stage_;
    PartTiles* tiles_;
    PartFittings* fittings_;
    HardRecords* hard_;
    class QLineEdit* name_ = nullptr;
    class PickBox* share_ = nullptr;
    class QPushButton* apart_ = nullptr;
    class QLabel* users_ = nullptr;
    class QLabel* speed_;
    class QPushButton* widen_;
};

}  // namespace jollyrow
