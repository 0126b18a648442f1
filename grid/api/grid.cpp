// SPDX-License-Identifier: MIT
#include "grid/api/grid.h"

#include <QComboBox>
#include <QElapsedTimer>
#include <QHelpEvent>
#include <QToolTip>

#include "core/design/design_file.h"
#include "core/design/make_design.h"
#include "core/design/tier_tree.h"
#include "core/session/objects_link.h"
#include "grid/access/grid_accessible.h"

#include "core/design/filter_entry.h"
#include "grid/filter/filter_row.h"
#include "grid/inside/grid_private.h"
#include "grid/inside/tool_tips.h"

namespace jollyrow {

Grid::Grid(QWidget* parent) : QAbstractScrollArea(parent), d(std::make_unique<GridPrivate>(*this)) {
    installGridAccessibility();  // before anything asks for this widget's face
    setFocusPolicy(Qt::StrongFocus);
    setFrameShape(QFrame::NoFrame);
    setAccessibleName(tr("Records"));
    viewport()->setMouseTracking(true);
    setAcceptDrops(true);
    viewport()->setAttribute(Qt::WA_OpaquePaintEvent);
    viewport()->setAttribute(Qt::WA_AcceptTouchEvents);
    d->context.session().drafts().setFolder(stateFolder());
    d->relayout();
}

Grid::~Grid() {
    // What stands open on it loses the focus when it goes, and would tell those who are gone by then.
    for (QObject* child : findChildren<QObject*>()) disconnect(child, nullptr, this, nullptr);
}

Result<void> Grid::open(const QString& designPath, const QString& databasePath) {
    auto read = readDesignFile(designPath.toStdString());
    if (!read) return read.error();
    const std::string path = databasePath.isEmpty() ? resolvedSourcePath(read->design, designPath.toStdString())
                                                    : databasePath.toStdString();
    if (auto opened = open(read->design, QString::fromStdString(path)); !opened) return opened;
    d->opened.findings = std::move(read->findings);
    return {};
}

Result<void> Grid::open(const Design& design, const QString& databasePath) {
    d->editors.end();
    if (auto opened = d->context.session().open(design, databasePath.toStdString()); !opened) return opened;
    d->opened.objects.reset();
    d->begun(databasePath);
    return {};
}

Result<void> Grid::open(const Design& design, std::shared_ptr<const Source> source, StoreOpener store,
                        const QString& path) {
    d->editors.end();
    if (auto opened = d->context.session().open(design, std::move(source), std::move(store), path.toStdString());
        !opened)
        return opened;
    d->opened.objects.reset();
    d->begun(path);
    return {};
}

Result<void> Grid::open(const Design& design, std::shared_ptr<const Table> table) {
    d->editors.end();
    if (auto opened = d->context.session().open(design, std::move(table)); !opened) return opened;
    d->opened.objects.reset();
    d->begun({});
    return {};
}

Result<void> Grid::open(Objects& objects) { return open(designFor(objects.schema(), {}), objects); }

Result<void> Grid::open(Design design, Objects& objects) {
    design.source = SourceDesign{};
    design.source.table = objects.schema().name;
    d->editors.end();
    auto link = std::make_unique<ObjectsLink>(d->context.session(), objects, postTo(*this));
    if (auto opened = link->open(std::move(design)); !opened) return opened;
    d->opened.objects = std::move(link);
    d->begun({});
    return {};
}

std::vector<Finding> Grid::findings() const {
    std::vector<Finding> all = d->opened.findings;
    all.insert(all.end(), d->context.session().plan().findings.begin(), d->context.session().plan().findings.end());
    return all;
}

void Grid::reload() { d->context.session().reload(); }
void Grid::cancelLoad() { d->context.session().cancelLoad(); }
bool Grid::isLoading() const { return d->context.session().isLoading(); }
bool Grid::isPartial() const { return d->context.session().isPartial(); }
const Design& Grid::design() const { return d->context.session().design(); }

void Grid::setDesign(const Design& design) {
    if (design == d->context.session().design()) return;
    d->editors.end();
    d->context.setFilterBefore(d->context.design().filter);
    d->context.session().setDesign(design);
    d->relayout();
}

void Grid::setSort(const std::vector<SortDesign>& keys) {
    Design next = design();
    next.sort = keys;
    setDesign(next);
}

void Grid::sortBy(QComboBox* box, const std::vector<SortChoice>& choices) {
    box->clear();
    for (const SortChoice& choice : choices) box->addItem(choice.title);
    const auto follow = [this, choices, control = QPointer<QComboBox>(box)] {
        if (!control) return;
        const auto at = std::find_if(choices.begin(), choices.end(),
                                     [this](const SortChoice& choice) { return choice.keys == design().sort; });
        const QSignalBlocker quiet(control);
        control->setCurrentIndex(at == choices.end() ? -1 : static_cast<int>(at - choices.begin()));
    };
    connect(box, &QComboBox::activated, this, [this, choices](int index) {
        if (index < 0 || choices[static_cast<std::size_t>(index)].keys == design().sort) return;
        setSort(choices[static_cast<std::size_t>(index)].keys);
        Q_EMIT designEdited(tr("Sort: %1").arg(choices[static_cast<std::size_t>(index)].title));
    });
    // With the box they go: it is their context.
    connect(this, &Grid::snapshotChanged, box, follow);
    connect(this, &Grid::designEdited, box, follow);
    follow();
}

void Grid::changeDesign(const std::function<void(Design&)>& change) {
    Design next = design();
    change(next);
    setDesign(next);
}

void Grid::openFind(const QString& text) { d->search.find.open(text); }
void Grid::showFound(std::shared_ptr<const RecordSet> records, const QString& what) {
    if (records) d->search.find.showFound(std::move(records), what);
}
void Grid::setParameter(const QString& name, const Value& value) {
    d->context.session().view().setParameter(name.toStdString(), value);
}

GridRecords Grid::records() const { return GridRecords(*d); }
GridFilters Grid::filters() const { return GridFilters(*d); }
GridGroups Grid::groups() const { return GridGroups(*d); }
GridSelection Grid::selection() const { return GridSelection(*d); }
GridPlaces Grid::places() const { return GridPlaces(*d); }
GridDesigner Grid::designer() const { return GridDesigner(*d); }
GridExtensions Grid::extensions() const { return GridExtensions(*d); }

GridColumn Grid::column(const QString& field) { return {*this, field.toStdString()}; }
GridTier Grid::tier(const QString& name) { return {*this, name.toStdString()}; }

std::int64_t Grid::lineCount() const { return d->rows.count(); }
Record Grid::recordAt(std::int64_t line) const { return d->recordAt(line); }

void Grid::setEditable(bool editable) {
    d->context.setEditable(editable);
    if (!editable) d->editors.end();
}

bool Grid::isEditable() const { return d->context.isEditable(); }

QString Grid::message() const { return d->editors.message(); }
const Tokens& Grid::look() const { return d->context.look(); }
PictureShelf& Grid::pictures() { return d->parts.shelf; }
Session& Grid::session() { return d->context.session(); }
const std::shared_ptr<const Snapshot>& Grid::snapshot() const { return d->context.session().snapshot(); }

QSize Grid::sizeHint() const { return {760, 480}; }

void Grid::paintEvent(QPaintEvent* event) {
    QPainter painter(viewport());
    d->paint(painter, event->rect());
}

void Grid::resizeEvent(QResizeEvent*) { d->relayout(); }
void Grid::scrollContentsBy(int, int) { d->scroller.followBars(); }

bool Grid::viewportEvent(QEvent* event) {
    if (event->type() == QEvent::Leave) {
        d->input.gestures.leave();
        d->parts.pictures.hideCard();
    }
    if (event->type() != QEvent::ToolTip) return QAbstractScrollArea::viewportEvent(event);
    const auto* help = static_cast<QHelpEvent*>(event);
    if (const auto place = d->body.placeAt(help->pos());
        place && d->parts.pictures.enlarge(*place, help->pos(), d->parts.presses))
        return QToolTip::hideText(), true;
    const Tip tip = tipAt(help->pos(), d->context, d->rows, d->body, d->headings, d->painters, d->parts.presses);
    if (tip.text.isEmpty()) {
        QToolTip::hideText();
        event->ignore();
    } else {
        QToolTip::showText(help->globalPos(), QStringLiteral("<qt>%1</qt>").arg(tip.text.toHtmlEscaped()), viewport(),
                           tip.area);
    }
    return true;
}

void Grid::mousePressEvent(QMouseEvent* event) {
    setFocus(Qt::MouseFocusReason);
    d->parts.pictures.close();
    d->input.gestures.press(*event);
}
void Grid::mouseMoveEvent(QMouseEvent* event) {
    d->input.gestures.move(*event);
    d->parts.pictures.pointerAt(event->pos());
}
void Grid::mouseReleaseEvent(QMouseEvent* event) { d->input.gestures.release(*event); }
void Grid::mouseDoubleClickEvent(QMouseEvent* event) { d->input.gestures.doubleClick(*event); }
void Grid::wheelEvent(QWheelEvent* event) { d->scroller.wheel(*event); }

/// Pictures are taken where they can be put; all else is left to those around the grid.
void Grid::dragEnterEvent(QDragEnterEvent* event) {
    d->parts.pictures.mayTake(*event->mimeData()) ? event->acceptProposedAction() : event->ignore();
}

void Grid::dragMoveEvent(QDragMoveEvent* event) {
    const auto place = d->body.placeAt(event->position().toPoint());
    if (!d->parts.pictures.accepts(*event->mimeData(), place)) return event->ignore();
    event->setDropAction(Qt::CopyAction);
    event->accept(QRect(event->position().toPoint(), QSize(1, 1)));
}

void Grid::dropEvent(QDropEvent* event) {
    const auto place = d->body.placeAt(event->position().toPoint());
    if (!d->parts.pictures.accepts(*event->mimeData(), place)) return event->ignore();
    event->setDropAction(Qt::CopyAction);
    event->accept();
    selection().setCurrentCell(place->line, place->column);
    d->parts.pictures.drop(*place, *event->mimeData());
}

void Grid::keyPressEvent(QKeyEvent* event) {
    if (!d->input.keys.key(*event)) QAbstractScrollArea::keyPressEvent(event);
}

void Grid::focusInEvent(QFocusEvent* event) {
    if (!d->cursor.current() && lineCount() > 0 && d->body.columns().count() > 0 &&
        event->reason() == Qt::TabFocusReason)
        selection().setCurrentCell(0, 0);
    viewport()->update();
}

void Grid::focusOutEvent(QFocusEvent*) { viewport()->update(); }

void Grid::contextMenuEvent(QContextMenuEvent* event) {
    if (event->reason() == QContextMenuEvent::Keyboard) return;  // the keys have said where already
    d->openMenuAt(viewport()->mapFromGlobal(event->globalPos()), event->globalPos());
}

void Grid::changeEvent(QEvent* event) {
    if (event->type() == QEvent::FontChange || event->type() == QEvent::StyleChange) {
        d->makeFonts();
        d->relayout();
    }
    if (event->type() == QEvent::PaletteChange) {
        d->context.refreshLook();
        viewport()->update();
    }
    QAbstractScrollArea::changeEvent(event);
}

}  // namespace jollyrow
