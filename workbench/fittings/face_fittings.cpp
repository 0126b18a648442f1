// SPDX-License-Identifier: MIT
#include "workbench/fittings/face_fittings.h"

#include <QGridLayout>
#include <QPainter>
#include <QPushButton>
#include <QToolButton>

#include <set>

#include "core/design/plan.h"
#include "grid/headings/heading_landing.h"
#include "workbench/app/look.h"
#include "workbench/face/cell_drawing.h"
#include "workbench/fittings/fitting_section.h"

namespace jollyrow {

/// One face, drawn with the values of a record.
class FaceTile final : public QToolButton {
  public:
    static constexpr int kPicture = 32;
    FaceTile(const QString& words, std::unique_ptr<CellDrawing> drawing, SourceRow row, bool isOn, QWidget* parent)
        : QToolButton(parent), words_(words), drawing_(std::move(drawing)), row_(row), isOn_(isOn) {
        setFixedHeight(kPicture + 20);
        setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Fixed);
        setAccessibleName(words);
        setCursor(Qt::PointingHandCursor);
    }
    const QString& words() const { return words_; }

  protected:
    void paintEvent(QPaintEvent*) override {
        const Tokens& t = look();
        QPainter painter(this);
        painter.setRenderHint(QPainter::Antialiasing);
        const QRectF box = QRectF(0, 0, width(), kPicture).adjusted(1, 1, -1, -1);
        painter.setPen(QPen(isOn_ ? t.brass : hasFocus() || underMouse() ? t.teal : t.hair, isOn_ ? 1.6 : 1));
        painter.setBrush(t.paper);
        painter.drawRoundedRect(box, 4, 4);
        painter.setRenderHint(QPainter::Antialiasing, false);
        if (drawing_) {
            drawing_->read(row_);
            drawing_->paint(painter, box.toRect().adjusted(1, 1, -1, 0), t);
        }
        painter.setFont(sized(11, isOn_ ? QFont::DemiBold : QFont::Normal));
        painter.setPen(isOn_ ? t.brassText : t.ink2);
        painter.drawText(QRectF(0, kPicture, width(), 18), Qt::AlignCenter,
                         painter.fontMetrics().elidedText(words_, Qt::ElideRight, width() - 4));
    }

  private:
    QString words_;
    std::unique_ptr<CellDrawing> drawing_;
    SourceRow row_;
    bool isOn_;
};

namespace {

QString wordsOf(ReadyFace face) {
    switch (face) {
        case ReadyFace::Text: return FaceFittings::tr("By type");
        case ReadyFace::LongText: return FaceFittings::tr("Long text");
        case ReadyFace::Status: return FaceFittings::tr("Marked");
        case ReadyFace::Bar: return FaceFittings::tr("Bar");
        case ReadyFace::Progress: return FaceFittings::tr("Progress");
        case ReadyFace::Rating: return FaceFittings::tr("Rating");
        case ReadyFace::Duration: return FaceFittings::tr("Duration");
        case ReadyFace::Trend: return FaceFittings::tr("Trend");
        case ReadyFace::Swatch: return FaceFittings::tr("Colour");
        case ReadyFace::Link: return FaceFittings::tr("Link");
        case ReadyFace::Picture: return FaceFittings::tr("Picture");
    }
    return {};
}

}  // namespace

FaceFittings::FaceFittings(QWidget* parent) : QWidget(parent), section_(new Section(tr("Face"), this)) {
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(0, 0, 0, 0);
    layout->addWidget(section_);
    auto* compose = new QPushButton(tr("Compose…"), section_);
    compose->setToolTip(tr("Put texts, marks and bars of several fields into one cell"));
    connect(compose, &QPushButton::clicked, this, [this] { Q_EMIT composeWanted(content_.fields.front()); });
    auto* row = section_->row();
    row->addWidget(compose);
    row->addStretch();
}

QWidget* FaceFittings::tile(const QString& words) const {
    for (FaceTile* tile : made_)
        if (tile->words() == words) return tile;
    return nullptr;
}

/// Up to eight different values, so that each gets a mark of its own: those of its records first met.
std::vector<std::string> FaceFittings::choicesOf(FieldIndex index) const {
    constexpr std::size_t kMost = 8;
    constexpr std::int64_t kLookedAt = 400;
    const Column* column = content_.snapshot ? content_.snapshot->table->column(index) : nullptr;
    std::vector<std::string> found;
    if (!column || column->type() != Type::Text) return found;
    const std::int64_t count = content_.snapshot->recordCount();
    for (std::int64_t i = 0; i < std::min(count, kLookedAt) && found.size() < kMost; ++i) {
        const SourceRow at = content_.snapshot->record(i * count / std::min(count, kLookedAt));
        if (column->isEmpty(at)) continue;
        const std::string text(column->text(at));
        if (std::find(found.begin(), found.end(), text) == found.end()) found.push_back(text);
    }
    return found;
}

void FaceFittings::addTile(const QString& words, const Design& with, bool isOn, const QString& label) {
    // Planned alone: what the tile shows is what the column would.
    Design one = with;
    const std::string field = content_.fields.front().toStdString();
    std::erase_if(one.columns, [&](const ColumnDesign& c) { return c.field != field; });
    one.sort.clear();
    one.filter.clear();
    one.groups.clear();
    one.summaries.clear();
    one.columns.front().shown = true;
    one.columns.front().hiddenFromUsers = false;
    one.columns.front().under.clear();
    const ViewPlan plan = planOf(one, content_.schema);
    std::unique_ptr<CellDrawing> drawing;
    SourceRow row{};
    if (!plan.columns.empty() && content_.snapshot && content_.snapshot->recordCount() > 0) {
        auto snapshot = std::make_shared<Snapshot>(*content_.snapshot);
        for (const ExtentTerm& term : plan.extents) {
            const bool known = std::any_of(snapshot->extents.begin(), snapshot->extents.end(),
                                           [&](const auto& e) { return e.first == term; });
            // A rough idea does for a picture of this size.
            if (!known) {
                RowOrder some;
                const std::int64_t count = snapshot->recordCount();
                for (std::int64_t i = 0; i < std::min<std::int64_t>(count, 2000); ++i)
                    some.push_back(raw(snapshot->record(i * count / std::min<std::int64_t>(count, 2000))));
                snapshot->extents.emplace_back(
                    term, extentOf(*snapshot->table, snapshot->edits.get(), &some, term.fields, Cancel()));
            }
        }
        row = content_.current.value_or(snapshot->record(0));
        if (raw(row) >= snapshot->table->rows) row = snapshot->record(0);
        drawing = std::make_unique<CellDrawing>(std::move(snapshot), plan.columns.front(), font(), content_.pictures);
    }
    auto* tile = new FaceTile(words, std::move(drawing), row, isOn, tiles_);
    connect(tile, &QToolButton::clicked, this, [this, with, label] { Q_EMIT changed(with, label, Joining::OwnStep); });
    const int place = static_cast<int>(made_.size());
    static_cast<QGridLayout*>(tiles_->layout())->addWidget(tile, place / 2, place % 2);
    made_.push_back(tile);
}

void FaceFittings::setContent(const FittingsContent& content) {
    if (tiles_ && content.fields == content_.fields && content.snapshot == content_.snapshot &&
        content.current == content_.current && content.design == content_.design)
        return;
    content_ = content;
    QString focused;
    for (FaceTile* tile : made_)
        if (tile->hasFocus()) focused = tile->words();
    build();
    if (QWidget* again = focused.isEmpty() ? nullptr : tile(focused)) again->setFocus();
}

void FaceFittings::build() {
    const FittingsContent& content = content_;
    const auto index =
        content.fields.size() == 1 ? content.schema.find(content.fields.front().toStdString()) : std::nullopt;
    setVisible(index.has_value());
    if (tiles_) tiles_->hide(), tiles_->deleteLater();
    made_.clear();
    tiles_ = new QWidget(section_);
    auto* grid = new QGridLayout(tiles_);
    grid->setContentsMargins(0, 0, 0, 0);
    grid->setSpacing(6);
    static_cast<QVBoxLayout*>(section_->body())->insertWidget(1, tiles_);
    if (!index) return;
    const std::string field = content.fields.front().toStdString();
    const ColumnDesign* column = content.design.column(field);
    if (!column) return;
    const FieldSchema& schema = content.schema.field(*index);
    const FaceDesign* own = content.design.findFace(column->face);
    section_->setNote(own ? tr("%1 parts").arg(partCount(own->root)) : QString());
    const QString heading = headingOfField(content.design, field);
    bool isReady = !own;
    std::vector<std::pair<QString, Design>> others;
    for (const ReadyFace ready : readyFaces(schema.type, schema.use)) {
        Design next = content.design;
        dropFace(next, field);
        const bool plain = ready == ReadyFace::Text || ready == ReadyFace::LongText;
        if (ready == ReadyFace::Text || ready == ReadyFace::LongText)
            next.column(field)->wrap = ready == ReadyFace::LongText;
        if (!plain) giveFace(next, field, readyFace(ready, choicesOf(*index)));
        const FaceDesign* made = plain ? nullptr : next.findFace(next.column(field)->face);
        const bool isOn =
            plain ? !own && column->wrap == next.column(field)->wrap : own && made && made->root == own->root;
        isReady = isReady || isOn;
        others.emplace_back(wordsOf(ready), next);
        addTile(wordsOf(ready), next, isOn,
                plain ? tr("Show %1 by its type").arg(heading) : tr("Face of %1").arg(heading));
    }
    for (const FaceDesign& face : content.design.faces) {
        const bool isOwn = own && own->name == face.name;
        const bool isOffered = made_.size() < 8 && showsOwnField(face.root) && schema.use != Use::LookUp;
        if (isOwn ? isReady : !isOffered) continue;
        Design next = content.design;
        if (!isOwn) {
            dropFace(next, field);
            if (!next.findFace(face.name)) continue;
            next.column(field)->face = face.name;
            std::vector<Finding> findings;
            if (!plannedFace(next, face, *next.column(field), content.schema, nullptr, findings) || !findings.empty())
                continue;
        }
        addTile(QString::fromStdString(face.name), next, isOwn, tr("Face of %1").arg(heading));
    }
}

}  // namespace jollyrow
