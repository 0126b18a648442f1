// SPDX-License-Identifier: MIT
#include "workbench/popovers/face_popover.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QPushButton>
#include <QTimer>
#include <QVBoxLayout>

#include "core/session/session.h"
#include "grid/api/grid.h"
#include "grid/headings/heading_landing.h"
#include "workbench/app/look.h"
#include "workbench/controls/controls.h"
#include "workbench/face/face_stage.h"
#include "workbench/face/hard_records.h"
#include "workbench/face/part_fittings.h"
#include "workbench/face/part_tiles.h"
#include "workbench/fittings/fitting_section.h"

namespace jollyrow {
namespace {

constexpr int kFittingsWidth = 300;

/// What a tile puts in.
FacePart newPart(FacePartKind kind) {
    switch (kind) {
        case FacePartKind::Text: return face::text("text");
        case FacePartKind::Mark:
            return face::mark({{"value IS NOT NULL", "teal", MarkShape::Tick}, {"", "buoy", MarkShape::Diamond}});
        case FacePartKind::Bar: return face::bar();
        case FacePartKind::Trend: return face::trend();
        case FacePartKind::Rating: return face::rating();
        case FacePartKind::Swatch: return face::swatch();
        case FacePartKind::Picture: return face::picture();
        case FacePartKind::Link: return face::link("open", {});
        case FacePartKind::Button: return face::button("press", "Press");
        case FacePartKind::Spacer: return face::spacer(16);
        case FacePartKind::Field:
        case FacePartKind::Row:
        case FacePartKind::Column:
        case FacePartKind::Stack: break;
    }
    return face::field();
}

}  // namespace

FacePopover::FacePopover(QWidget* window, const Design& design, Grid& grid, const std::string& field)
    : Popover(tr("Face of %1").arg(headingOfField(design, field)), window),
      design_(design),
      grid_(grid),
      field_(field),
      stage_(new FaceStage(this)),
      tiles_(new PartTiles(this)),
      fittings_(new PartFittings(grid, field, this)),
      hard_(new HardRecords(this)),
      speed_(quietLabel({}, this)),
      widen_(new QPushButton(this)) {
    addNameLine();
    auto* middle = new QHBoxLayout;
    middle->setSpacing(20);
    auto* left = new QVBoxLayout;
    left->setSpacing(8);
    addStage(*left);
    auto* hardTitle = new QLabel(tr("On hard records, in real size"), this);
    hardTitle->setFont(sized(12, QFont::DemiBold));
    left->addWidget(hardTitle);
    left->addWidget(hard_, 1);
    middle->addLayout(left, 1);
    QWidget* page = scrollingPage(fittings_, this);
    page->setFixedWidth(scaled(kFittingsWidth));
    page->setMinimumHeight(scaled(250));
    middle->addWidget(page);
    body()->addLayout(middle);
    addFootLine();
    connect(fittings_, &PartFittings::changed, this,
            [this](const PartFittings::Change& change, const QString& label, bool joins) {
                FacePart next = root();
                if (FacePart* part = partAt(next, selected_)) change(*part);
                apply(std::move(next), label, joins ? Joining::WithLastOfSameName : Joining::OwnStep);
            });
    connect(fittings_, &PartFittings::removeWanted, this, &FacePopover::remove);
    connect(hard_, &HardRecords::chosen, this, [this](quint32 row) {
        row_ = static_cast<SourceRow>(row);
        refresh();
    });
    // The first that is no container: there is something to set at once.
    while (partAt(root(), selected_) && !partAt(root(), selected_)->parts.empty()) selected_.push_back(0);
    refresh();
    QTimer::singleShot(0, stage_, [this] { stage_->setFocus(); });
}

FacePopover::~FacePopover() = default;

void FacePopover::addStage(QVBoxLayout& to) {
    auto* words = quietLabel(
        tr("Drag parts about in the cell, drawn here three times its size; the grid follows at once."), this);
    words->setWordWrap(true);
    to.addWidget(words);
    to.addWidget(stage_);
    to.addWidget(quietLabel(tr("Put in"), this));
    to.addWidget(tiles_);
    to.addSpacing(6);
    connect(stage_, &FaceStage::selected, this, &FacePopover::select);
    connect(stage_, &FaceStage::moved, this, [this](const FacePath& from, const FaceLanding& landing) {
        FacePart next = root();
        if (const auto path = movePart(next, from, landing)) {
            selected_ = *path;
            apply(std::move(next), tr("Move a part of %1").arg(headingOfField(design_, field_)));
        }
    });
    connect(stage_, &FaceStage::shifted, this, [this](int by) {
        FacePart next = root();
        if (shiftPart(next, selected_, by))
            apply(std::move(next), tr("Move a part of %1").arg(headingOfField(design_, field_)));
    });
    connect(stage_, &FaceStage::removeWanted, this, &FacePopover::remove);
    connect(tiles_, &PartTiles::chosen, this, [this](FacePartKind kind) { putIn(kind, std::nullopt); });
    connect(tiles_, &PartTiles::dragged, this,
            [this](FacePartKind, const QPoint& at) { stage_->dragOver(stage_->mapFromGlobal(at)); });
    connect(tiles_, &PartTiles::dropped, this, [this](FacePartKind kind, const QPoint&) {
        if (stage_->landing()) putIn(kind, stage_->landing());
    });
    connect(tiles_, &PartTiles::dragEnded, this, [this] { stage_->dragOver(std::nullopt); });
}

/// What the face is called, and which columns have it: a change of it is a change for all of them.
void FacePopover::addNameLine() {
    auto* row = new QHBoxLayout;
    row->setSpacing(8);
    row->addWidget(quietLabel(tr("called"), this));
    name_ = smallEntry(tr("Name of the face"), 150, this);
    row->addWidget(name_);
    share_ = new PickBox(this);
    share_->setAccessibleName(tr("Columns that have the face, too"));
    row->addWidget(share_);
    apart_ = new QPushButton(tr("One of its own"), this);
    apart_->setToolTip(tr("Changes of this face then are changes of this column alone."));
    row->addWidget(apart_);
    users_ = quietLabel({}, this);
    row->addWidget(users_, 1);
    body()->addLayout(row);
    const auto current = [this] { return design_.column(field_) ? design_.column(field_)->face : std::string(); };
    connect(name_, &QLineEdit::editingFinished, this, [this, current] {
        const std::string from = current(), to = name_->text().trimmed().toStdString();
        if (from.empty() || to == from) return;
        Design next = design_;
        if (!renameFace(next, from, to)) {
            name_->setText(QString::fromStdString(from));
            return users_->setText(to.empty() ? tr("a face has a name") : tr("another face is called that"));
        }
        send([from, to](Design& d) { renameFace(d, from, to); }, tr("Rename a face"));
    });
    connect(share_, &QComboBox::activated, this, [this, current](int chosen) {
        const std::string other = share_->itemData(chosen).toString().toStdString(), face = current();
        if (other.empty() || face.empty()) return;
        send([other, face](Design& d) { shareFace(d, other, face); },
             tr("Face of %1").arg(headingOfField(design_, other)));
    });
    connect(apart_, &QPushButton::clicked, this, [this] {
        send([field = field_, tree = root()](Design& d) { giveFace(d, field, tree); },
             tr("Face of %1").arg(headingOfField(design_, field_)));
    });
}

void FacePopover::send(const DesignChange& change, const QString& label) {
    change(design_);
    Q_EMIT changed(change, label, Joining::OwnStep);
    refresh();
}

void FacePopover::showNames() {
    const ColumnDesign* column = design_.column(field_);
    const std::string face = column ? column->face : std::string();
    const bool isNamed = design_.findFace(face) != nullptr;
    name_->setEnabled(isNamed);
    if (!name_->hasFocus() || !isNamed) name_->setText(isNamed ? QString::fromStdString(face) : tr("by its type"));
    QStringList others;
    share_->clear();
    share_->addItem(tr("also for…"), QString());
    const TableSchema& schema = grid_.session().schema();
    const auto own = schema.find(field_);
    for (const ColumnDesign& one : design_.columns) {
        if (one.field == field_) continue;
        if (isNamed && one.face == face) others << headingOfField(design_, one.field);
        // One that shows the field of its column suits columns of the same type.
        const auto index = schema.find(one.field);
        const bool suits = index && own && schema.field(*index).type == schema.field(*own).type;
        if (isNamed && one.face != face && suits)
            share_->addItem(headingOfField(design_, one.field), QString::fromStdString(one.field));
    }
    share_->setEnabled(share_->count() > 1);
    apart_->setVisible(!others.isEmpty());
    users_->setText(others.isEmpty() ? QString() : tr("shared with %1").arg(others.join(QStringLiteral(", "))));
}

void FacePopover::addFootLine() {
    auto* foot = new QHBoxLayout;
    foot->setSpacing(10);
    foot->addWidget(speed_, 1);
    widen_->setFlat(true);
    connect(widen_, &QPushButton::clicked, this, [this] { Q_EMIT widthWanted(hard_->widest()); });
    foot->addWidget(widen_);
    auto* plain = new QPushButton(tr("By type again"), this);
    plain->setToolTip(tr("Takes the face away; the column shows its value as its type does."));
    connect(plain, &QPushButton::clicked, this, [this] {
        Q_EMIT changed([field = field_](Design& d) { dropFace(d, field); },
                       tr("Show %1 by its type").arg(headingOfField(design_, field_)), Joining::OwnStep);
        close();
        Q_EMIT closed();
    });
    foot->addWidget(plain);
    auto* done = new QPushButton(tr("Done"), this);
    connect(done, &QPushButton::clicked, this, [this] {
        close();
        Q_EMIT closed();
    });
    foot->addWidget(done);
    body()->addLayout(foot);
}

FacePart FacePopover::root() const {
    const ColumnDesign* column = design_.column(field_);
    const FaceDesign* face = column ? design_.findFace(column->face) : nullptr;
    if (face) return face->root;
    const TableSchema& schema = grid_.session().schema();
    const auto index = schema.find(field_);
    const FacePart* automatic = index ? automaticFace(schema.field(*index).type, schema.field(*index).use) : nullptr;
    return automatic ? *automatic : face::field();
}

void FacePopover::apply(FacePart root, const QString& label, Joining joining) {
    if (!partAt(root, selected_)) selected_.clear();
    composeFace(design_, field_, root);
    Q_EMIT changed([field = field_, root = std::move(root)](Design& d) { composeFace(d, field, root); }, label,
                   joining);
    refresh();
}

void FacePopover::putIn(FacePartKind kind, const std::optional<FaceLanding>& at) {
    FacePart next = root();
    const auto path = insertPart(next, newPart(kind), at.value_or(FaceLanding{selected_, FaceSide::After}));
    if (!path) return;
    selected_ = *path;
    apply(std::move(next), tr("Put a part into %1").arg(headingOfField(design_, field_)));
}

void FacePopover::remove() {
    FacePart next = root();
    const auto near = removePart(next, selected_);
    if (!near) return;
    selected_ = *near;
    apply(std::move(next), tr("Take a part out of %1").arg(headingOfField(design_, field_)));
}

void FacePopover::select(const FacePath& path) {
    selected_ = path;
    refresh();
}

void FacePopover::setDesign(const Design& design) {
    design_ = design;
    if (!design_.column(field_)) {
        close();
        return Q_EMIT closed();
    }
    while (!selected_.empty() && !partAt(root(), selected_)) selected_.pop_back();
    refresh();
}

QSize FacePopover::cellSize() const {
    const QSize cell(grid_.places().heading(QString::fromStdString(field_)).width(), grid_.design().grid.rowHeight);
    const int most = (stage_->width() > 300 ? stage_->width() : 440) / FaceStage::kScale - 8;
    return {std::clamp(cell.width(), 24, std::max(60, most)), std::clamp(cell.height(), 16, 60)};
}

SourceRow FacePopover::shownRow() const {
    const auto& snapshot = grid_.snapshot();
    if (row_ && raw(*row_) < snapshot->table->rows) return *row_;
    if (const Record current = grid_.selection().current(); current.isValid())
        if (const auto row = grid_.session().rowOf(current.key())) return *row;
    return snapshot->record(0);
}

void FacePopover::refresh() {
    showNames();
    const auto& snapshot = grid_.snapshot();
    const PlannedColumn* column = nullptr;
    for (const PlannedColumn& planned : grid_.session().plan().columns)
        if (planned.design.field == field_) column = &planned;
    if (!snapshot || !column || snapshot->recordCount() == 0) {
        stage_->present(nullptr, {160, 26}, root(), selected_);
        return;
    }
    const QSize cell = cellSize();
    // What a column shows by its type is a face of one part here, so that others can be put beside it.
    PlannedColumn faced = *column;
    std::vector<Finding> findings;
    if (!faced.face)
        faced.face = plannedFace(design_, {{}, face::field()}, faced.design, grid_.session().schema(),
                                 grid_.session().registered(), findings);
    column = &faced;
    auto drawing = std::make_unique<CellDrawing>(snapshot, *column, grid_.font(), &grid_.pictures());
    drawing->read(shownRow());
    stage_->present(drawing.get(), cell, root(), selected_);
    drawing_ = std::move(drawing);
    auto hard = std::make_unique<CellDrawing>(snapshot, *column, grid_.font(), &grid_.pictures());
    const int columnWidth = grid_.places().heading(QString::fromStdString(field_)).width();
    hard_->present(hard.get(), *snapshot, {std::min(columnWidth, 240), cell.height()});
    hardDrawing_ = std::move(hard);
    speed_->setText(tr("%1 µs a cell").arg(hard_->microseconds(), 0, 'f', 1) +
                    (hard_->cut() > 0
                         ? tr(", cut in %1 of %2 looked at").arg(grouped(hard_->cut()), grouped(hard_->lookedAt()))
                         : tr(", whole in all %1 looked at").arg(grouped(hard_->lookedAt()))));
    widen_->setVisible(hard_->cut() > 0);
    widen_->setText(tr("Widen to %1 px").arg(hard_->widest()));
    showPart();
    fitHeight();
}

void FacePopover::showPart() {
    const FacePart tree = root();
    const FacePart* part = partAt(tree, selected_);
    if (!part) return;
    const bool isShown = holdsParts(part->kind) || !stage_->rectOf(selected_).isEmpty() || !drawing_->column().face;
    fittings_->setPart(design_, selected_, *part, isShown);
}

}  // namespace jollyrow
