// SPDX-License-Identifier: MIT
#include "grid/faces/part_presses.h"

#include <QDesktopServices>
#include <QUrl>

#include <algorithm>

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
    openAddress(place, part);
    return true;
}

/// What the builder allows and nothing else: the address comes from the database.
void PartPresses::openAddress(CellPlace place, std::size_t part) const {
    constexpr qsizetype kLongest = 2000;
    const FaceReader* reader = rows_.view()->face(place.column);
    if (!reader || !context_.planned(place.column).face->parts[part].opens) return;
    const QString written = QString::fromStdString(reader->address(rows_.rowAt(place.line), part)).trimmed();
    const QUrl url(written, QUrl::StrictMode);
    const std::string scheme = url.scheme().toLower().toStdString();
    const auto& allowed = context_.design().grid.linkSchemes;
    const bool isAllowed = mayOpen(scheme) && std::find(allowed.begin(), allowed.end(), scheme) != allowed.end();
    if (!isAllowed || !url.isValid() || written.size() > kLongest) return;
    QDesktopServices::openUrl(url);
}

}  // namespace jollyrow
