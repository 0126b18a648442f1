// SPDX-License-Identifier: MIT
#include "grid/faces/part_presses.h"

#include "grid/faces/composed_face.h"

namespace jollyrow {

bool PartPresses::isPressable(int column, std::size_t part) const {
    const FacePartKind kind = context_.planned(column).face->parts[part].design.kind;
    return kind == FacePartKind::Link || kind == FacePartKind::Button;
}

std::optional<std::size_t> PartPresses::partAt(CellPlace place, QPoint position) const {
    const PlannedColumn& column = context_.planned(place.column);
    if (!column.face || !rows_.isRecord(place.line) || rows_.banner(place.line)) return std::nullopt;
    CellText cell;
    rows_.cell(place.line, place.column, cell);
    return composedFace().partAt(context_.grid().font(), {column, cell, body_.cellRect(place)}, position);
}

bool PartPresses::pressAt(CellPlace place, QPoint position) const {
    const auto part = partAt(place, position);
    return part && isPressable(place.column, *part) && press(place, *part);
}

std::optional<std::size_t> PartPresses::first(CellPlace place) const {
    if (!context_.planned(place.column).face || !rows_.isRecord(place.line) || rows_.banner(place.line))
        return std::nullopt;
    CellText cell;
    rows_.cell(place.line, place.column, cell);
    if (!cell.isComposed) return std::nullopt;
    for (std::size_t part = 0; part < cell.face.parts.size(); ++part)
        if (cell.face.parts[part].isShown && isPressable(place.column, part)) return part;
    return std::nullopt;
}

bool PartPresses::pressFirst(CellPlace place) const {
    const auto part = first(place);
    return part && press(place, *part);
}

bool PartPresses::press(CellPlace place, std::size_t part) const {
    const PlannedColumn& column = context_.planned(place.column);
    Q_EMIT context_.grid().partPressed(context_.record(rows_.rowAt(place.line)),
                                       QString::fromStdString(column.design.field),
                                       QString::fromStdString(column.face->parts[part].design.name));
    return true;
}

}  // namespace jollyrow
