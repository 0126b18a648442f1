// SPDX-License-Identifier: MIT
// The registry of faces: one line a kind; the first whose test holds shows the column.
#include <cstdlib>

#include "grid/faces/check_face.h"
#include "grid/faces/composed_face.h"

namespace jollyrow {

/// Near the middle of a centred cell, where the box or the word stands; elsewhere anywhere in it.
bool CellFace::isPressedAt(QPoint position, const QRect& cell, Alignment alignment) const {
    constexpr int kPressedPx = 10;
    return std::abs(position.x() - cell.center().x()) <= kPressedPx || alignment != Alignment::Center;
}

namespace {

struct FaceKind {
    bool (*shows)(const PlannedColumn& column);
    const CellFace& (*face)();
};

/// Made when first asked for and never destroyed: its pixmaps must not outlive the application object.
template <class Face>
const CellFace& only() {
    static const auto* face = new Face;
    return *face;
}

bool isYesNo(const PlannedColumn& column) { return column.format.type == Type::Boolean; }

constexpr FaceKind kKinds[] = {
    {[](const PlannedColumn& c) { return c.face != nullptr; }, only<ComposedFace>},
    {[](const PlannedColumn& c) { return isYesNo(c) && c.format.spec.style == FormatStyle::Automatic; },
     only<CheckFace>},
    {isYesNo, only<YesNoFace>},
    {[](const PlannedColumn&) { return true; }, only<TextFace>},
};

}  // namespace

const CellFace& faceOf(const PlannedColumn& column) {
    for (const FaceKind& kind : kKinds)
        if (kind.shows(column)) return kind.face();
    return only<TextFace>();
}

const ComposedFace& composedFace() { return static_cast<const ComposedFace&>(only<ComposedFace>()); }

}  // namespace jollyrow
