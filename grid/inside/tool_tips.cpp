// SPDX-License-Identifier: MIT
#include "grid/inside/tool_tips.h"

#include "grid/faces/composed_face.h"

namespace jollyrow {
namespace {

constexpr std::size_t kMostShownBytes = 4000;

QString withArticle(Type type) {
    const std::string_view words = article(type);
    return QString::fromUtf8(words.data(), static_cast<qsizetype>(words.size()));
}

Tip tipOfTier(const PlannedTier& tier, const QRect& area) {
    QString text = QString::fromStdString(tier.design.toolTip.empty() ? tier.design.heading : tier.design.toolTip);
    if (tier.foldedAway > 0)
        text +=
            Grid::tr("\n%n column(s) folded away; a click on the mark brings them back.", nullptr, tier.foldedAway)
                .replace(QStringLiteral("column(s)"), tier.foldedAway == 1 ? Grid::tr("column") : Grid::tr("columns"));
    return {text, area};
}

Tip tipOfColumn(const PlannedColumn& column, const TableSchema& schema, const QRect& area) {
    if (!column.design.toolTip.empty()) return {QString::fromStdString(column.design.toolTip), area};
    const FieldSchema& field = schema.field(column.field);
    return {Grid::tr("%1 — %2.%3, %4")
                .arg(QString::fromStdString(column.design.heading), QString::fromStdString(schema.name),
                     QString::fromStdString(field.name), withArticle(field.type)),
            area};
}

}  // namespace

namespace {

/// What the part under the pointer says of itself; else its text where that may be cut or is a length only.
QString tipOfParts(const CellText& cell, CellPlace place, QPoint position, const GridContext& context,
                   const ShownRows& rows, const PartPresses& presses, const Painters& painters) {
    const auto part = presses.partAt(place, position);
    const FaceReader* reader = rows.view()->face(place.column);
    if (!part || !reader) return {};
    const std::string said = reader->toolTip(rows.rowAt(place.line), *part);
    if (!said.empty()) return QString::fromStdString(said);
    const PartContent& content = cell.face.parts[*part];
    const FacePartKind kind = reader->face().parts[*part].design.kind;
    const PlannedColumn& column = context.planned(place.column);
    if (const auto stacked = composedFace().stackedAt({column, cell, {}}, *part, position))
        return QString::fromStdString(reader->stackedText(rows.rowAt(place.line), *part, *stacked));
    if (kind == FacePartKind::Link)
        if (const std::string address = reader->address(rows.rowAt(place.line), *part); !address.empty())
            return QString::fromStdString(address.substr(0, kMostShownBytes));
    const bool isText = kind == FacePartKind::Text || kind == FacePartKind::Field || kind == FacePartKind::Link;
    const QRectF at = composedFace().rects()[*part];
    const GlyphText& glyphs = painters.cells().text();
    const int lines =
        reader->face().parts[*part].design.lines == 1 ? 1 : static_cast<int>(at.height() / glyphs.lineHeight());
    if (isText && lines > 1 && glyphs.wrappedLines(content.text, at.width(), lines + 1) <= lines) return {};
    if (isText && lines <= 1 && !glyphs.elides(content.text, at.width())) return {};
    return QString::fromUtf8(content.text.substr(0, kMostShownBytes));
}

}  // namespace

Tip tipAt(QPoint position, const GridContext& context, const ShownRows& rows, const BodyGeometry& body,
          const HeadingControl& headings, const Painters& painters, const PartPresses& presses) {
    if (position.y() < body.headerHeight()) {
        const HeadingLayout layout = headings.layout();
        const auto hit = layout.hitAt(position);
        if (hit && hit->tier) return tipOfTier(context.plannedTier(*hit->tier), layout.tierRect(*hit->tier));
        if (hit && hit->column)
            return tipOfColumn(context.planned(*hit->column), context.schema(), layout.columnRect(*hit->column));
        return {};
    }
    const auto place = body.placeAt(position);
    if (!place || !rows.has(place->line)) return {};
    if (rows.banner(place->line)) {
        std::string caption;
        rows.view()->caption(static_cast<ViewLine>(place->line), caption);
        const QRect line(0, body.cellRect(*place).top(), body.viewport().width(), body.rowHeight());
        if (!painters.cells().text().elides(caption, line.width() - measure::kGutter - 2 * measure::kCellPadding))
            return {};
        return {QString::fromStdString(caption.substr(0, kMostShownBytes)), line};
    }
    CellText cell;
    rows.cell(place->line, place->column, cell);
    const QRect area = body.cellRect(*place);
    if (cell.isMisfit)
        return {Grid::tr("Stored as \"%1\", which is not %2.")
                    .arg(QString::fromUtf8(cell.text), withArticle(context.planned(place->column).format.type)),
                area};
    if (cell.isComposed) return {tipOfParts(cell, *place, position, context, rows, presses, painters), area};
    const int room = body.columns().width(place->column) - 2 * measure::kCellPadding;
    if (!painters.cells().text().elides(cell.text, room)) return {};
    return {QString::fromUtf8(cell.text.substr(0, kMostShownBytes)), area};
}

}  // namespace jollyrow
