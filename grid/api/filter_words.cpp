// SPDX-License-Identifier: MIT
#include "grid/api/filter_words.h"

#include <QHelpEvent>
#include <QKeyEvent>
#include <QMenu>
#include <QMouseEvent>
#include <QPainter>
#include <QToolTip>

#include <algorithm>

#include "core/design/condition.h"
#include "core/session/session.h"
#include "grid/api/grid.h"
#include "grid/paint/grouped.h"
#include "grid/paint/looks.h"

namespace jollyrow {
namespace {

constexpr int kLeastLine = 27;
constexpr int kAir = 5;

}  // namespace

FilterWords::FilterWords(Grid& grid, QWidget* parent) : QWidget(parent), grid_(&grid) {
    installPaintedParts();
    setObjectName(QStringLiteral("filterWords"));
    setMouseTracking(true);
    setFocusPolicy(Qt::TabFocus);
    setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Fixed);
    connect(&grid, &Grid::snapshotChanged, this, &FilterWords::refresh);
    connect(&grid, &Grid::designEdited, this, &FilterWords::refresh);
    connect(&grid, &Grid::loadEnded, this, &FilterWords::refresh);
    refresh();
}

void FilterWords::setBuilderOffered(bool offered) {
    builder_ = offered;
    relayout();
}

void FilterWords::refresh() {
    if (!grid_ || !grid_->snapshot()) {
        hide();
        return;
    }
    const Design& design = grid_->design();
    const TableSchema& schema = grid_->session().schema();
    parts_.clear();
    for (const FilterDesign& part : design.filter) {
        QString words =
            QString::fromStdString(sentenceOf(conditionFrom(part.rule, schema, design), schema, design)).simplified();
        parts_.push_back({std::move(words), part.on, {}, {}});
    }
    const Snapshot& snapshot = *grid_->snapshot();
    count_ = tr("%1 of %2").arg(grouped(snapshot.filter.rowsOut), grouped(snapshot.source.rowsOut));
    if (!snapshot.table->complete) count_ = tr("%1 so far").arg(count_);
    if (snapshot.filter.failed != 0) count_ += tr(", %1 could not be tested").arg(grouped(snapshot.filter.failed));
    focused_ = std::min(focused_, stops() - 1);
    // What was just taken away is still within reach.
    setVisible(!parts_.empty() || (grid_->filters().hasTakenAway() && !grid_->filters().earlier().empty()));
    setAccessibleName(tr("What is filtered"));
    setAccessibleDescription(sentence());
    relayout();
}

QString FilterWords::lead() const { return parts_.empty() ? tr("Showing every record") : tr("Showing records where"); }

QString FilterWords::sentence() const {
    QStringList on;
    for (const Part& part : parts_)
        if (part.on) on << part.words;
    return on.isEmpty() ? tr("Showing every record: %1").arg(count_)
                        : tr("Showing records where %1: %2").arg(on.join(tr(" and ")), count_);
}

void FilterWords::relayout() {
    const QFontMetrics metrics(font());
    QFont strong = font();
    strong.setWeight(QFont::DemiBold);
    const int countWidth = QFontMetrics(strong).horizontalAdvance(count_) + 16;
    const int lineHigh = lineHeight(), cross = crossRoom();
    const int right = std::max(200, width() - countWidth - 12);
    int x = 14, y = kAir;
    const auto place = [&](int wanted) {
        const int w = std::min(wanted, right - 14);
        if (x + w > right && x > 14) {
            x = 14;
            y += lineHigh;
        }
        const QRect box(x, y, w, lineHigh - 4);
        x += w + 8;
        return box;
    };
    lead_ = place(metrics.horizontalAdvance(lead()) + 2);
    for (Part& part : parts_) {
        part.box = place(metrics.horizontalAdvance(part.words) + 12 + cross);
        part.cross = QRect(part.box.right() - cross + 1, part.box.top(), cross, part.box.height());
    }
    add_ = builder_ ? place(metrics.horizontalAdvance(wordsOf(Link::Add)) + 8) : QRect();
    clearBox_ = parts_.empty() ? QRect() : place(metrics.horizontalAdvance(wordsOf(Link::Clear)) + 8);
    const bool isEarlier = grid_ && !grid_->filters().earlier().empty();
    earlierBox_ = !isEarlier ? QRect() : place(metrics.horizontalAdvance(wordsOf(Link::Earlier)) + 8);
    const int lines = (y - kAir) / lineHigh + 1;
    if (lines != lines_) {
        lines_ = lines;
        updateGeometry();
    }
    update();
}

int FilterWords::lineHeight() const { return std::max(kLeastLine, fontMetrics().height() + 11); }

int FilterWords::crossRoom() const { return std::max(22, fontMetrics().height() + 7); }

std::vector<FilterWords::Link> FilterWords::links() const {
    std::vector<Link> all;
    for (const Link link : {Link::Add, Link::Clear, Link::Earlier})
        if (!boxOf(link).isNull()) all.push_back(link);
    return all;
}

QRect FilterWords::boxOf(Link link) const {
    return link == Link::Add ? add_ : link == Link::Clear ? clearBox_ : earlierBox_;
}

QString FilterWords::wordsOf(Link link) {
    return link == Link::Add ? tr("+ Add") : link == Link::Clear ? tr("Clear all") : tr("Earlier");
}

void FilterWords::follow(Link link) {
    switch (link) {
        case Link::Add: Q_EMIT builderWanted(); break;
        case Link::Clear: clear(); break;
        case Link::Earlier: openEarlier(mapToGlobal(earlierBox_.bottomLeft())); break;
    }
}

int FilterWords::partCount() const { return static_cast<int>(2 * parts_.size() + links().size()); }

PaintedPart FilterWords::part(int index) const {
    const int conditions = static_cast<int>(parts_.size()), link = index - 2 * conditions;
    if (link >= 0) {
        const Link one = links()[static_cast<std::size_t>(link)];
        return {wordsOf(one), {}, boxOf(one), false, false, hasFocus() && focused_ == conditions + link};
    }
    const Part& of = parts_[static_cast<std::size_t>(index / 2)];
    if (index % 2 == 1) return {tr("Take away: %1").arg(of.words), {}, of.cross};
    return {of.words, tr("A condition of what is shown; Delete takes it away"),
            of.box,   true,
            of.on,    hasFocus() && focused_ == index / 2};
}

void FilterWords::pressPart(int index) {
    const int link = index - static_cast<int>(2 * parts_.size());
    if (link >= 0)
        follow(links()[static_cast<std::size_t>(link)]);
    else
        index % 2 == 1 ? remove(index / 2) : toggle(index / 2);
}

QSize FilterWords::sizeHint() const { return {400, lines_ * lineHeight() + 2 * kAir - 2}; }
void FilterWords::resizeEvent(QResizeEvent*) { relayout(); }
QPoint FilterWords::partAt(int index) const {
    return parts_[static_cast<std::size_t>(index)].box.center() - QPoint(12, 0);
}
QPoint FilterWords::crossAt(int index) const { return parts_[static_cast<std::size_t>(index)].cross.center(); }

void FilterWords::apply(std::vector<FilterDesign> filter, const QString& label) {
    if (!grid_) return;
    grid_->changeDesign([&](Design& design) { design.filter = std::move(filter); });
    grid_->filters().noteEdited();
    Q_EMIT edited(label);
    refresh();
}

void FilterWords::toggle(int part) {
    auto filter = grid_->design().filter;
    FilterDesign& one = filter[static_cast<std::size_t>(part)];
    one.on = !one.on;
    const QString label = one.on ? tr("Switch a condition on") : tr("Switch a condition off");
    apply(std::move(filter), label);
}

void FilterWords::remove(int part) {
    auto filter = grid_->design().filter;
    filter.erase(filter.begin() + part);
    apply(std::move(filter), tr("Take a condition away"));
}

void FilterWords::clear() { apply({}, tr("Clear all filters")); }

void FilterWords::openEarlier(const QPoint& global) {
    auto* menu = new QMenu(this);
    menu->setAttribute(Qt::WA_DeleteOnClose);
    const Design& design = grid_->design();
    const TableSchema& schema = grid_->session().schema();
    for (const auto& filter : grid_->filters().earlier()) {
        QStringList words;
        for (const FilterDesign& part : filter)
            words << QString::fromStdString(sentenceOf(conditionFrom(part.rule, schema, design), schema, design));
        menu->addAction(fontMetrics().elidedText(words.join(tr(" and ")), Qt::ElideRight, 420), this,
                        [this, filter] { apply(filter, tr("Filter as before")); });
    }
    menu->popup(global);
}

void FilterWords::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    paint(painter);
}

void FilterWords::paint(QPainter& painter) {
    if (!grid_) return;
    const Tokens& t = tokensAt(*this);
    painter.fillRect(rect(), t.page);
    painter.fillRect(0, height() - 1, width(), 1, t.hair);
    painter.setRenderHint(QPainter::Antialiasing);
    painter.setPen(t.ink2);
    painter.drawText(lead_, Qt::AlignLeft | Qt::AlignVCenter, lead());
    for (std::size_t i = 0; i < parts_.size(); ++i) {
        const Part& part = parts_[i];
        const bool over = hovered_ == static_cast<int>(i), keyed = hasFocus() && focused_ == static_cast<int>(i);
        painter.setPen(Qt::NoPen);
        painter.setBrush(part.on ? t.tealPale : t.panel);
        painter.drawRoundedRect(QRectF(part.box), 3, 3);
        painter.fillRect(QRect(part.box.left(), part.box.bottom(), part.box.width(), keyed ? 2 : 1),
                         part.on || keyed ? t.teal : t.entryEdge);
        QFont shown = font();
        shown.setStrikeOut(!part.on);
        painter.setFont(shown);
        painter.setPen(part.on ? t.ink : t.ink2);
        const QRect room = part.box.adjusted(7, 0, -crossRoom(), 0);
        painter.drawText(room, Qt::AlignLeft | Qt::AlignVCenter,
                         painter.fontMetrics().elidedText(part.words, Qt::ElideRight, room.width()));
        const QPointF c = QRectF(part.cross).center();
        painter.setPen(QPen(over && overCross_ ? t.buoyText : t.ink2, 1.3, Qt::SolidLine, Qt::RoundCap));
        const double arm = 3.0 * crossRoom() / 22;
        painter.drawLine(c + QPointF(-arm, -arm), c + QPointF(arm, arm));
        painter.drawLine(c + QPointF(-arm, arm), c + QPointF(arm, -arm));
    }
    painter.setFont(font());
    painter.setPen(t.tealText);
    for (const Link link : links()) painter.drawText(boxOf(link), Qt::AlignLeft | Qt::AlignVCenter, wordsOf(link));
    if (const int link = focused_ - static_cast<int>(parts_.size()); hasFocus() && link >= 0 && focused_ < stops()) {
        const QRect box = boxOf(links()[static_cast<std::size_t>(link)]);
        painter.fillRect(QRect(box.left(), box.bottom() - 1, box.width() - 8, 2), t.teal);
    }
    QFont strong = font();
    strong.setWeight(QFont::DemiBold);
    painter.setFont(strong);
    painter.setPen(t.ink);
    painter.drawText(QRect(0, kAir, width() - 14, lineHeight() - 4), Qt::AlignRight | Qt::AlignVCenter, count_);
}

void FilterWords::mousePressEvent(QMouseEvent* event) {
    if (!grid_ || event->button() != Qt::LeftButton) return;
    const QPoint at = event->pos();
    for (std::size_t i = 0; i < parts_.size(); ++i) {
        if (parts_[i].cross.contains(at)) return remove(static_cast<int>(i));
        if (parts_[i].box.contains(at)) return toggle(static_cast<int>(i));
    }
    for (const Link link : links())
        if (boxOf(link).contains(at)) return follow(link);
}

void FilterWords::mouseMoveEvent(QMouseEvent* event) {
    int over = -1;
    bool cross = false;
    for (std::size_t i = 0; i < parts_.size(); ++i) {
        if (!parts_[i].box.contains(event->pos())) continue;
        over = static_cast<int>(i);
        cross = parts_[i].cross.contains(event->pos());
    }
    const auto all = links();
    const bool isLink =
        std::any_of(all.begin(), all.end(), [&](Link link) { return boxOf(link).contains(event->pos()); });
    setCursor(over >= 0 || isLink ? Qt::PointingHandCursor : Qt::ArrowCursor);
    hovered_ = over;
    overCross_ = cross;
    update();
}

void FilterWords::leaveEvent(QEvent*) {
    hovered_ = -1;
    update();
}

void FilterWords::focusInEvent(QFocusEvent*) {
    focused_ = std::max(0, focused_);
    update();
}
void FilterWords::focusOutEvent(QFocusEvent*) { update(); }

void FilterWords::keyPressEvent(QKeyEvent* event) {
    const int last = static_cast<int>(parts_.size()) - 1, before = focused_;
    switch (event->key()) {
        case Qt::Key_Left: focused_ = std::max(0, focused_ - 1); break;
        case Qt::Key_Right: focused_ = std::min(stops() - 1, focused_ + 1); break;
        case Qt::Key_Space:
        case Qt::Key_Return:
            if (focused_ >= 0 && focused_ < stops()) pressPart(focused_ <= last ? 2 * focused_ : last + 1 + focused_);
            break;
        case Qt::Key_Delete:
        case Qt::Key_Backspace:
            if (focused_ >= 0 && focused_ <= last) remove(focused_);
            break;
        case Qt::Key_Down:
            if (!earlierBox_.isNull()) openEarlier(mapToGlobal(earlierBox_.bottomLeft()));
            break;
        case Qt::Key_Escape:
            if (grid_) grid_->setFocus(Qt::OtherFocusReason);
            break;
        default: QWidget::keyPressEvent(event); return;
    }
    if (focused_ != before && focused_ >= 0)
        tellPartFocus(*this, focused_ <= last ? 2 * focused_ : last + 1 + focused_);
    update();
}

bool FilterWords::event(QEvent* event) {
    if (event->type() == QEvent::ToolTip) {
        auto* help = static_cast<QHelpEvent*>(event);
        for (const Part& part : parts_)
            if (part.box.contains(help->pos())) {
                QToolTip::showText(help->globalPos(),
                                   part.words + (part.on ? tr("\nA click switches it off; the cross takes it away.")
                                                         : tr("\nSwitched off; a click switches it on.")),
                                   this);
                return true;
            }
        QToolTip::hideText();
        return true;
    }
    return QWidget::event(event);
}

}  // namespace jollyrow
