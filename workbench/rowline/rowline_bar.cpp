// SPDX-License-Identifier: MIT
#include "workbench/rowline/rowline_bar.h"

#include <QHelpEvent>
#include <QKeyEvent>
#include <QLocale>
#include <QMouseEvent>
#include <QPainter>
#include <QTextLayout>
#include <QToolTip>
#include <QVariantAnimation>

#include <cmath>

#include "workbench/app/look.h"
#include "workbench/controls/controls.h"

namespace jollyrow {
namespace {

constexpr double kHalfStation = 34;
constexpr double kShoulder = 22;
constexpr double kChannel = 92;
constexpr double kWidestChannel = 150;
constexpr double kTailRoom = 120;
constexpr double kWordsRoom = 30;  ///< beside the words over a channel, to the shoulders of its stations
constexpr double kTail = 4.5;
constexpr int kHeight = 92;

/// The bar is laid out and drawn in pixels at 100 % text, and scaled as a whole.
QFont drawn(int pixelSize, QFont::Weight weight = QFont::Normal) {
    QFont font = sized(pixelSize, weight);
    font.setPixelSize(pixelSize);
    return font;
}

QString timeText(double milliseconds) {
    if (milliseconds <= 0) return {};
    if (milliseconds < 10) return RowlineBar::tr("%1 ms").arg(milliseconds, 0, 'f', 1);
    if (milliseconds < 1000) return RowlineBar::tr("%1 ms").arg(std::lround(milliseconds));
    return RowlineBar::tr("%1 s").arg(milliseconds / 1000, 0, 'f', 1);
}

/// The upper edge from one station's shoulder to the next; `sign` -1 above the centre line, +1 below, drawn backwards.
void shoulderOut(QPainterPath& path, double x1, double centre, double half, double sign, double inset) {
    const double y = centre + sign * (kHalfStation - inset), yc = centre + sign * half;
    path.lineTo(x1 - 14, y);
    path.cubicTo(x1 + 0.25 * kShoulder, y, x1 + 0.35 * kShoulder, yc, x1 + kShoulder, yc);
}
void shoulderIn(QPainterPath& path, double x0, double centre, double half, double sign, double inset) {
    const double y = centre + sign * (kHalfStation - inset), yc = centre + sign * half;
    path.lineTo(x0 - kShoulder, yc);
    path.cubicTo(x0 - 0.35 * kShoulder, yc, x0 - 0.25 * kShoulder, y, x0 + 14, y);
}

/// One edge of the current from left to right, channels scaled and stations inset for the inner streams.
QPainterPath edge(const std::vector<CurrentShape::Span>& stations, const std::vector<double>& thickness, double width,
                  double centre, double sign, double scale, double inset) {
    QPainterPath path(QPointF(stations.front().x0, centre + sign * (kHalfStation - inset)));
    for (std::size_t i = 0; i < stations.size(); ++i) {
        const double half = thickness[i] / 2 * scale;
        if (i > 0) shoulderIn(path, stations[i].x0, centre, thickness[i - 1] / 2 * scale, sign, inset);
        shoulderOut(path, stations[i].x1, centre, half, sign, inset);
        if (i + 1 == stations.size()) path.lineTo(width + 4, centre + sign * kTail / 2 * scale);
    }
    return path;
}

}  // namespace

double CurrentShape::thicknessFor(std::int64_t rows) {
    return rows <= 0 ? 1.5 : std::max(3.0, 5.3 * std::log10(static_cast<double>(rows)));
}

CurrentShape CurrentShape::of(const std::vector<double>& textWidths, const std::vector<double>& words,
                              const std::vector<double>& thickness, double width, double height) {
    CurrentShape shape;
    shape.thickness = thickness;
    const double centre = height / 2;
    const auto count = static_cast<double>(textWidths.size());
    double texts = 0, longer = 0;
    for (const double w : textWidths) texts += w;
    const auto more = [&](std::size_t i, double channel) {  // room for long words over a channel
        return i + 1 < words.size() ? std::max(0.0, words[i] + kWordsRoom - channel) : 0.0;
    };
    // The first station enters from the window's edge, the last is followed by a tail that leaves it. What is left
    // over goes to stations by the length of their text, and to the channels between them.
    const double room = std::max(width - kChannel * count - kTailRoom, count * 60);
    const double spare = std::max(room - texts, 0.0);
    const double channel = std::min(kWidestChannel, kChannel + spare / (2 * count));
    for (std::size_t i = 0; i < words.size(); ++i) longer += more(i, channel);
    const double forTexts = std::max(width - channel * count - longer - kTailRoom, count * 60);
    double x = 0;
    for (const double w : textWidths) {
        const double x1 = x + std::min(forTexts * w / std::max(texts, 1.0), w * 1.6);
        shape.stations.push_back({x == 0 ? -20 : x, x1});
        x = x1 + channel + more(shape.stations.size() - 1, channel);
    }
    shape.outline = edge(shape.stations, thickness, width, centre, -1, 1, 0);
    shape.outline.connectPath(edge(shape.stations, thickness, width, centre, 1, 1, 0).toReversed());
    shape.outline.closeSubpath();
    return shape;
}

RowlineBar::RowlineBar(QWidget* parent) : QWidget(parent), easing_(new QVariantAnimation(this)) {
    installPaintedParts();
    setFixedHeight(scaled(kHeight));
    setMouseTracking(true);
    setFocusPolicy(Qt::TabFocus);
    setAccessibleName(tr("Rowline"));
    easing_->setDuration(160);
    easing_->setEasingCurve(QEasingCurve::OutCubic);
    connect(easing_, &QVariantAnimation::valueChanged, this, [this] {
        relayout();
        update();
    });
}

void RowlineBar::setStations(std::vector<Station> stations) {
    std::vector<double> wanted;
    for (const Station& station : stations) wanted.push_back(CurrentShape::thicknessFor(station.rowsOut));
    const bool sameNumber = stations.size() == stations_.size() && !shownThickness_.empty();
    stations_ = std::move(stations);
    easing_->stop();
    disconnect(easing_, &QVariantAnimation::valueChanged, nullptr, nullptr);
    if (!sameNumber || shownThickness_ == wanted) {
        shownThickness_ = wanted;
    } else {
        // The breadth eases; numbers and words change at once.
        connect(easing_, &QVariantAnimation::valueChanged, this,
                [this, from = shownThickness_, wanted](const QVariant& share) {
                    for (std::size_t i = 0; i < wanted.size(); ++i)
                        shownThickness_[i] = from[i] + (wanted[i] - from[i]) * share.toDouble();
                    relayout();
                    update();
                });
        easing_->setStartValue(0.0);
        easing_->setEndValue(1.0);
        easing_->start();
    }
    QStringList spoken;
    for (const Station& station : stations_)
        spoken << QString::fromUtf8(name(station.stage).data()) + QStringLiteral(": ") + station.sentence +
                      QStringLiteral(", ") + tr("%1 rows").arg(station.rowsOut);
    setAccessibleDescription(spoken.join(QStringLiteral("; ")));
    relayout();
    update();
}

void RowlineBar::setOpenStage(std::optional<Stage> stage) {
    open_ = stage;
    update();
}

void RowlineBar::setDesignColumn(const std::optional<QString>& field) {
    designColumn_ = field;
    update();
}

void RowlineBar::relayout() {
    if (stations_.empty()) return;
    std::vector<double> widths, words;
    const QFontMetricsF metrics(drawn(12)), bold(drawn(12, QFont::DemiBold));
    for (std::size_t i = 0; i < stations_.size(); ++i) words.push_back(bold.horizontalAdvance(wordsBehind(i)));
    for (const Station& station : stations_) {
        // Two lines of the sentence at most, none shorter than the name needs.
        const double whole = metrics.horizontalAdvance(station.sentence);
        widths.push_back(std::clamp(whole > 190 ? whole / 2 + 30 : whole, 110.0, 230.0) + 44);
    }
    shape_ = CurrentShape::of(widths, words, shownThickness_, width() / textScale(), kHeight);
}

/// What passes on behind a station: how many rows, or what it says of them.
QString RowlineBar::wordsBehind(std::size_t station) const {
    const Station& of = stations_[station];
    if (!of.passesOn.isEmpty()) return of.passesOn;
    return station + 1 == stations_.size() ? tr("%1 rows").arg(grouped(of.rowsOut)) : grouped(of.rowsOut);
}

void RowlineBar::resizeEvent(QResizeEvent*) { relayout(); }

int RowlineBar::stationAt(QPointF position) const {
    position /= textScale();
    for (std::size_t i = 0; i < shape_.stations.size(); ++i)
        if (position.x() >= shape_.stations[i].x0 - 8 && position.x() <= shape_.stations[i].x1 + 8 &&
            position.y() >= 0 && position.y() < kHeight)
            return static_cast<int>(i);
    return -1;
}

PaintedPart RowlineBar::part(int index) const {
    const Station& station = stations_[static_cast<std::size_t>(index)];
    QString name = tr("%1: %2").arg(QString::fromUtf8(jollyrow::name(station.stage).data()), station.sentence);
    if (station.isBypassed) name += tr(", bypassed");
    QString passesOn = wordsBehind(static_cast<std::size_t>(index));
    if (station.passesOn.isEmpty()) passesOn = tr("%1 rows").arg(grouped(station.rowsOut));
    return {name,
            tr("Passes on %1, took %2").arg(passesOn, timeText(station.milliseconds)),
            stationRect(station.stage),
            false,
            false,
            hasFocus() && focused_ == index};
}

void RowlineBar::pressPart(int index) {
    focused_ = index;
    Q_EMIT stationClicked(stations_[static_cast<std::size_t>(index)].stage);
}

QRect RowlineBar::stationRect(Stage stage) const {
    for (std::size_t i = 0; i < stations_.size(); ++i)
        if (stations_[i].stage == stage && i < shape_.stations.size())
            return QTransform::fromScale(textScale(), textScale())
                .mapRect(QRectF(shape_.stations[i].x0, kHeight / 2.0 - kHalfStation,
                                shape_.stations[i].x1 - shape_.stations[i].x0, 2 * kHalfStation))
                .toRect();
    return {};
}

std::optional<Stage> RowlineBar::dragOver(const QPoint& globalPosition, const QString& words) {
    const int at = stationAt(mapFromGlobal(globalPosition));
    const bool takes = at >= 0 && stations_[static_cast<std::size_t>(at)].stage != Stage::Source;
    dropOn_ = takes ? at : -1;
    dropWords_ = takes && stations_[static_cast<std::size_t>(at)].stage == Stage::Filter ? tr("pick values") : words;
    update();
    return takes ? std::optional(stations_[static_cast<std::size_t>(at)].stage) : std::nullopt;
}

void RowlineBar::dragEnd() {
    dropOn_ = -1;
    update();
}

void RowlineBar::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    paint(painter);
}

void RowlineBar::paint(QPainter& painter) {
    const Tokens& t = look();
    painter.fillRect(rect(), t.panel);
    painter.fillRect(0, height() - 1, width(), 1, t.hair);
    if (stations_.empty() || shape_.stations.size() != stations_.size()) return;
    painter.setRenderHint(QPainter::Antialiasing);
    painter.scale(textScale(), textScale());
    const double centre = kHeight / 2.0, wide = width() / textScale();

    QLinearGradient water(0, 0, wide, 0), stream(0, 0, wide, 0);
    const auto stop = [wide](QLinearGradient& gradient, double x, const QColor& colour) {
        gradient.setColorAt(std::clamp(x / wide, 0.0, 1.0), colour);
    };
    QColor faint = t.currentStream, strong = t.currentStream;
    faint.setAlphaF(0.16F);
    strong.setAlphaF(0.8F);
    for (const CurrentShape::Span& s : shape_.stations) {
        stop(water, s.x0 - 10, t.currentChannel);
        stop(water, s.x0 + 20, t.paper);
        stop(water, s.x1 - 20, t.paper);
        stop(water, s.x1 + 10, t.currentChannel);
        stop(stream, s.x0 - 10, strong);
        stop(stream, s.x0 + 20, faint);
        stop(stream, s.x1 - 20, faint);
        stop(stream, s.x1 + 10, strong);
    }
    painter.setPen(QPen(t.currentEdge, 1.2));
    painter.setBrush(water);
    painter.drawPath(shape_.outline);
    painter.setBrush(Qt::NoBrush);
    painter.setPen(QPen(QBrush(stream), 1));
    for (const double sign : {-1.0, 1.0})
        painter.drawPath(edge(shape_.stations, shape_.thickness, wide, centre, sign, 0.5, 4.5));
    paintTotal(painter);
    for (std::size_t i = 0; i < stations_.size(); ++i) {
        paintChannel(painter, static_cast<int>(i));
        paintStation(painter, static_cast<int>(i));
    }
}

void RowlineBar::paintChannel(QPainter& painter, int index) {
    const Tokens& t = look();
    const auto i = static_cast<std::size_t>(index);
    const bool isLast = i + 1 == stations_.size();
    const double left = shape_.stations[i].x1 + 10;
    const double right = isLast ? left + 96 : shape_.stations[i + 1].x0 - 10;
    const double half = shape_.thickness[i] / 2, centre = kHeight / 2.0;
    const QRectF above(left - 14, centre - half - 23, right - left + 28, 18),
        below(left - 14, centre + half + 4, right - left + 28, 16);
    painter.setFont(drawn(12, QFont::DemiBold));
    painter.setPen(t.ink);
    painter.drawText(above, Qt::AlignCenter, wordsBehind(i));
    const bool slow = stations_[i].milliseconds > 100 && stations_[i].stage != Stage::Source;
    painter.setFont(drawn(11));
    painter.setPen(slow ? t.buoyText : t.ink2);
    painter.drawText(below, Qt::AlignCenter, timeText(stations_[i].milliseconds) + (slow ? tr(", slow") : QString()));
}

/// At the window's edge: what the whole way took.
void RowlineBar::paintTotal(QPainter& painter) {
    double total = 0;
    for (const Station& station : stations_) total += station.milliseconds;
    if (total <= 0) return;
    const double centre = kHeight / 2.0;
    const QRectF place(width() / textScale() - kTailRoom, 0, kTailRoom - 14, 18);
    painter.setFont(drawn(12, QFont::DemiBold));
    painter.setPen(look().ink);
    painter.drawText(place.translated(0, centre - 25), Qt::AlignRight | Qt::AlignVCenter, timeText(total));
    painter.setFont(drawn(11));
    painter.setPen(look().ink2);
    painter.drawText(place.translated(0, centre + 7), Qt::AlignRight | Qt::AlignVCenter, tr("in all"));
}

void RowlineBar::paintStation(QPainter& painter, int index) {
    const Tokens& t = look();
    const auto i = static_cast<std::size_t>(index);
    const Station& station = stations_[i];
    const CurrentShape::Span span = shape_.stations[i];
    const bool isOpen = open_ == station.stage, isDrop = dropOn_ == index;
    const bool isFocus = hasFocus() && focused_ == index;
    if (isOpen || isDrop || hovered_ == index || isFocus) {
        painter.save();
        painter.setClipRect(QRectF(span.x0 - 16, 0, span.x1 - span.x0 + 32, kHeight));
        QColor colour = isOpen || isDrop ? t.brass : t.teal, none = colour;
        none.setAlpha(0);
        QLinearGradient fade(span.x0 - 16, 0, span.x1 + 16, 0);
        const double shoulder = 22 / (span.x1 - span.x0 + 32);
        fade.setColorAt(0, none);
        fade.setColorAt(shoulder, colour);
        fade.setColorAt(1 - shoulder, colour);
        fade.setColorAt(1, none);
        QLinearGradient fill = fade;
        QColor pale = t.brassPale, paleNone = t.brassPale;
        paleNone.setAlpha(0);
        fill.setStops({{0, paleNone}, {shoulder, pale}, {1 - shoulder, pale}, {1, paleNone}});
        painter.setPen(QPen(QBrush(fade), isOpen || isDrop ? 2 : 1.6));
        painter.setBrush(isOpen || isDrop ? QBrush(fill) : QBrush(Qt::NoBrush));
        painter.drawPath(shape_.outline);
        painter.restore();
    }
    const double left = std::max(span.x0, 0.0) + 14, top = kHeight / 2.0 - kHalfStation;
    painter.setFont(drawn(11, QFont::DemiBold));
    painter.setPen(isOpen || isDrop ? t.brassText : t.tealText);
    painter.drawText(
        QRectF(left, top + 8, span.x1 - left, 16), Qt::AlignLeft | Qt::AlignVCenter,
        QString::fromUtf8(name(station.stage).data()) + (station.isBypassed ? tr(" · bypassed") : QString()));
    painter.setPen(QPen(isOpen ? t.brassText : t.ink3, 1.5, Qt::SolidLine, Qt::RoundCap, Qt::RoundJoin));
    const QPointF c(span.x1 - 16, top + 16);
    const QPointF chevron[] = {c + QPointF(-3.5, -1.8), c + QPointF(0, 1.8), c + QPointF(3.5, -1.8)};
    if (isOpen || hovered_ == index || isFocus) painter.drawPolyline(chevron, 3);
    QRectF room(left, top + 25, span.x1 - left - 8, 36);
    if (isDrop) {
        const QFontMetricsF metrics(drawn(12));
        const double used = station.isIdle ? 0 : std::min(metrics.horizontalAdvance(station.sentence), room.width());
        const bool below = used + metrics.horizontalAdvance(dropWords_) + 24 > room.width();
        const QRectF slot(room.left() + (below || used == 0 ? 0 : used + 6), room.top() + (below ? 17 : 0),
                          metrics.horizontalAdvance(dropWords_) + 14, 18);
        painter.setPen(QPen(t.brass, 1.3, Qt::DashLine));
        painter.setBrush(t.paper);
        painter.drawRoundedRect(slot, 3, 3);
        painter.setFont(drawn(12));
        painter.setPen(t.brassText);
        painter.drawText(slot, Qt::AlignCenter, dropWords_);
        if (station.isIdle) return;
    }
    paintSentence(painter, station, room);
}

void RowlineBar::paintSentence(QPainter& painter, const Station& station, const QRectF& room) {
    const Tokens& t = look();
    QFont font = drawn(12);
    font.setStrikeOut(station.isBypassed);
    QTextLayout layout(station.sentence, font);
    layout.beginLayout();
    double y = 0;
    const double lineHeight = 16;
    painter.setPen(station.isIdle || station.isBypassed ? t.ink2 : t.ink);
    painter.setFont(font);
    for (int line = 0; line < 2; ++line) {
        QTextLine text = layout.createLine();
        if (!text.isValid()) break;
        text.setLineWidth(room.width());
        const int start = text.textStart();
        const bool cut = line == 1 && start + text.textLength() < station.sentence.size();
        const QString shown =
            cut ? QFontMetricsF(font).elidedText(station.sentence.mid(start), Qt::ElideRight, room.width())
                : station.sentence.mid(start, text.textLength()).trimmed();
        const QRectF place(room.left(), room.top() + y, room.width(), lineHeight);
        painter.drawText(place, Qt::AlignLeft | Qt::AlignVCenter, shown);
        for (std::size_t w = 0; w < station.words.size(); ++w) {
            const qsizetype at = shown.indexOf(station.words[w]);
            if (at < 0 || !designColumn_ || station.fields[w] != *designColumn_) continue;
            const QFontMetricsF metrics(font);
            painter.fillRect(QRectF(place.left() + metrics.horizontalAdvance(shown.left(at)), place.bottom() - 1,
                                    metrics.horizontalAdvance(station.words[w]), 2),
                             t.brass);
        }
        y += lineHeight;
    }
    layout.endLayout();
}

void RowlineBar::mousePressEvent(QMouseEvent* event) {
    if (const int at = stationAt(event->position()); at >= 0 && event->button() == Qt::LeftButton) {
        focused_ = at;
        Q_EMIT stationClicked(stations_[static_cast<std::size_t>(at)].stage);
    }
}

void RowlineBar::mouseMoveEvent(QMouseEvent* event) {
    const int at = stationAt(event->position());
    if (at == hovered_) return;
    hovered_ = at;
    setCursor(at >= 0 ? Qt::PointingHandCursor : Qt::ArrowCursor);
    update();
}

void RowlineBar::leaveEvent(QEvent*) {
    hovered_ = -1;
    update();
}

void RowlineBar::keyPressEvent(QKeyEvent* event) {
    const int count = static_cast<int>(stations_.size()), before = focused_;
    switch (event->key()) {
        case Qt::Key_Left: focused_ = std::max(0, focused_ - 1); break;
        case Qt::Key_Right: focused_ = std::min(count - 1, focused_ + 1); break;
        case Qt::Key_Return:
        case Qt::Key_Space:
            if (focused_ < count) pressPart(focused_);
            break;
        default: QWidget::keyPressEvent(event); return;
    }
    if (focused_ != before) tellPartFocus(*this, focused_);
    update();
}

void RowlineBar::focusInEvent(QFocusEvent*) { update(); }
void RowlineBar::focusOutEvent(QFocusEvent*) { update(); }

bool RowlineBar::event(QEvent* event) {
    if (event->type() == QEvent::ToolTip) {
        auto* help = static_cast<QHelpEvent*>(event);
        const int at = stationAt(help->pos());
        if (at < 0)
            QToolTip::hideText();
        else
            QToolTip::showText(help->globalPos(), stations_[static_cast<std::size_t>(at)].sentence, this);
        return true;
    }
    return QWidget::event(event);
}

}  // namespace jollyrow
