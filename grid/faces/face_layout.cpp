// SPDX-License-Identifier: MIT
// Idea: what is needed from the leaves up; what is given from the root down. In a row fixed parts have their pixels,
// fitting ones what they need, sharing ones what is left by their weights. When it is too little, fitting parts that
// may shrink do so, the widest first, until all that is left is as wide. Covered by tests/grid/tst_face_layout.cpp.
#include "grid/faces/face_layout.h"

#include <algorithm>

namespace jollyrow {
namespace {

/// Calls visit(child) for each part directly within one that is shown.
template <class Visit>
void forEachShown(const PlannedFace& face, const FaceContent& content, std::size_t part, const Visit& visit) {
    for (std::size_t child = part + 1; child < face.parts[part].end; child = face.parts[child].end)
        if (content.parts[child].isShown) visit(child);
}

bool isSpacer(const PlannedFace& face, std::size_t part) {
    return face.parts[part].design.kind == FacePartKind::Spacer;
}

qreal limited(qreal pixels, const Width& width) {
    pixels = std::max<qreal>(pixels, width.minimum);
    return width.maximum > 0 ? std::min<qreal>(pixels, width.maximum) : pixels;
}

/// What a part wants across, before anything is shared out.
qreal wanted(const PlannedPart& part, const FaceLayout::Needs& needs) {
    const Width& width = part.design.width;
    if (width.mode == WidthMode::Fixed) return width.pixels;
    return limited(needs.size.width(), width);
}

/// Takes `tooMuch` pixels from those that shrink, the widest first.
void shrink(std::vector<qreal>& widths, const std::vector<bool>& shrinks, qreal tooMuch) {
    while (tooMuch > 0.5) {
        qreal widest = 0, next = 0;
        std::size_t sharing = 0;
        for (std::size_t i = 0; i < widths.size(); ++i) {
            if (!shrinks[i]) continue;
            if (widths[i] > widest + 0.01) {
                next = widest;
                widest = widths[i];
                sharing = 1;
            } else if (widths[i] > widest - 0.01) {
                ++sharing;
            } else {
                next = std::max(next, widths[i]);
            }
        }
        if (sharing == 0 || widest <= 0) return;
        const qreal step = std::min(widest - next, tooMuch / static_cast<qreal>(sharing));
        for (std::size_t i = 0; i < widths.size(); ++i)
            if (shrinks[i] && widths[i] > widest - 0.01) widths[i] -= step;
        tooMuch -= step * static_cast<qreal>(sharing);
    }
}

}  // namespace

void FaceLayout::measure(const PlannedFace& face, const FaceContent& content, const Measure& measure) {
    needs_.assign(face.parts.size(), {});
    if (!face.parts.empty() && content.parts.front().isShown) measurePart(face, content, 0, measure);
}

void FaceLayout::measurePart(const PlannedFace& face, const FaceContent& content, std::size_t part,
                             const Measure& measure) {
    const FacePartKind kind = face.parts[part].design.kind;
    if (!holdsParts(kind)) {
        needs_[part] = measure(part);
        return;
    }
    QSizeF size(0, 0);
    bool gap = false;
    forEachShown(face, content, part, [&](std::size_t child) {
        measurePart(face, content, child, measure);
        const Needs& needs = needs_[child];
        needs_[part].shrinks = needs_[part].shrinks || needs.shrinks;
        const qreal width = wanted(face.parts[child], needs);
        if (kind == FacePartKind::Row) {
            const bool spacer = isSpacer(face, child);
            size.rwidth() += width + (gap && !spacer ? kGap : 0);
            gap = !spacer;
            size.rheight() = std::max(size.height(), needs.size.height());
        } else {
            size.rwidth() = std::max(size.width(), width);
            size.rheight() = kind == FacePartKind::Column ? size.height() + needs.size.height()
                                                          : std::max(size.height(), needs.size.height());
        }
    });
    needs_[part].size = size;
}

const std::vector<QRectF>& FaceLayout::arrange(const PlannedFace& face, const FaceContent& content,
                                               const QRectF& room) {
    rects_.assign(face.parts.size(), {});
    if (!face.parts.empty() && content.parts.front().isShown) place(face, content, 0, room);
    return rects_;
}

void FaceLayout::place(const PlannedFace& face, const FaceContent& content, std::size_t part, const QRectF& room) {
    rects_[part] = room;
    switch (face.parts[part].design.kind) {
        case FacePartKind::Row: return placeRow(face, content, part, room);
        case FacePartKind::Column: return placeColumn(face, content, part, room);
        case FacePartKind::Stack:
            return forEachShown(face, content, part, [&](std::size_t child) { place(face, content, child, room); });
        default: return;
    }
}

void FaceLayout::placeRow(const PlannedFace& face, const FaceContent& content, std::size_t part, const QRectF& room) {
    std::vector<std::size_t> children;
    std::vector<qreal> widths, gaps;
    std::vector<bool> shrinks;
    qreal used = 0, weights = 0;
    forEachShown(face, content, part, [&](std::size_t child) {
        const Width& width = face.parts[child].design.width;
        const bool shares = width.mode == WidthMode::Share;
        const bool gap = !children.empty() && !isSpacer(face, child) && !isSpacer(face, children.back());
        children.push_back(child);
        gaps.push_back(gap ? kGap : 0);
        widths.push_back(shares ? 0 : wanted(face.parts[child], needs_[child]));
        shrinks.push_back(!shares && width.mode == WidthMode::Fit && needs_[child].shrinks);
        used += widths.back() + gaps.back();
        if (shares) weights += width.weight;
    });
    qreal rest = room.width() - used;
    if (rest < 0) shrink(widths, shrinks, -rest);
    rest = std::max<qreal>(0, rest);
    qreal x = room.left();
    for (std::size_t i = 0; i < children.size(); ++i) {
        const Width& width = face.parts[children[i]].design.width;
        if (width.mode == WidthMode::Share) widths[i] = limited(rest * width.weight / weights, width);
        x += gaps[i];
        const qreal left = std::min(x, room.right()), right = std::min(x + widths[i], room.right());
        place(face, content, children[i], QRectF(left, room.top(), std::max<qreal>(0, right - left), room.height()));
        x += widths[i];
    }
}

/// In the middle of the height, closer together where it is too little.
void FaceLayout::placeColumn(const PlannedFace& face, const FaceContent& content, std::size_t part,
                             const QRectF& room) {
    const qreal needed = needs_[part].size.height();
    const qreal squeeze = needed > room.height() && needed > 0 ? room.height() / needed : 1;
    qreal y = room.top() + (room.height() - needed * squeeze) / 2;
    forEachShown(face, content, part, [&](std::size_t child) {
        const qreal height = needs_[child].size.height() * squeeze;
        const Width& width = face.parts[child].design.width;
        const qreal across =
            width.mode == WidthMode::Fixed ? std::min<qreal>(width.pixels, room.width()) : room.width();
        place(face, content, child, QRectF(room.left(), y, across, height));
        y += height;
    });
}

std::optional<std::size_t> FaceLayout::partAt(const PlannedFace& face, const QPointF& point) const {
    std::optional<std::size_t> found;
    for (std::size_t part = 0; part < rects_.size() && part < face.parts.size(); ++part)
        if (rects_[part].contains(point) && !holdsParts(face.parts[part].design.kind)) found = part;
    return found;
}

}  // namespace jollyrow
