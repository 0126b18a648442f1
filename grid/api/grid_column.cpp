// SPDX-License-Identifier: MIT
#include "grid/api/grid_column.h"

#include "core/design/plan.h"
#include "core/design/tier_tree.h"
#include "core/session/session.h"
#include "grid/api/grid.h"

namespace jollyrow {

GridColumn& GridColumn::change(const std::function<void(ColumnDesign&)>& change) {
    grid_->changeDesign([&](Design& design) {
        if (ColumnDesign* column = design.column(field_)) change(*column);
    });
    return *this;
}

bool GridColumn::isValid() const { return grid_->design().column(field_) != nullptr; }
ColumnDesign GridColumn::settings() const { return *grid_->design().column(field_); }

GridColumn& GridColumn::setHeading(const QString& heading) {
    return change([&](ColumnDesign& c) { c.heading = heading.toStdString(); });
}
GridColumn& GridColumn::setShown(bool shown) {
    return change([&](ColumnDesign& c) { c.shown = shown; });
}
GridColumn& GridColumn::setHiddenFromUsers(bool hidden) {
    return change([&](ColumnDesign& c) { c.hiddenFromUsers = hidden; });
}
GridColumn& GridColumn::setReadOnly(bool readOnly) {
    return change([&](ColumnDesign& c) { c.readOnly = readOnly; });
}
GridColumn& GridColumn::setWrap(bool wrap) {
    return change([&](ColumnDesign& c) { c.wrap = wrap; });
}
GridColumn& GridColumn::setMerge(bool merge) {
    return change([&](ColumnDesign& c) { c.merge = merge; });
}
GridColumn& GridColumn::setAlignment(Alignment alignment) {
    return change([&](ColumnDesign& c) { c.alignment = alignment; });
}
GridColumn& GridColumn::setWidth(int pixels) {
    return change([&](ColumnDesign& c) {
        c.width.mode = WidthMode::Fixed;
        c.width.pixels = std::clamp(pixels, Width::kLeastPixels, Width::kMostPixels);
    });
}
GridColumn& GridColumn::setWidth(const Width& width) {
    return change([&](ColumnDesign& c) { c.width = width; });
}
GridColumn& GridColumn::fitWidth() {
    return change([](ColumnDesign& c) { c.width.mode = WidthMode::Fit; });
}
GridColumn& GridColumn::setShare(double weight) {
    return change([&](ColumnDesign& c) {
        c.width.mode = WidthMode::Share;
        c.width.weight = std::clamp(weight, 0.01, 1000.0);
    });
}
GridColumn& GridColumn::setFormat(const QString& pattern) {
    const auto field = grid_->session().schema().find(field_);
    const bool isBoolean = field && grid_->session().schema().field(*field).type == Type::Boolean;
    return change([&](ColumnDesign& c) {
        const FormatSpec spec = formatFor(pattern.toStdString(), isBoolean);
        c.format.style = spec.style;
        c.format.pattern = spec.pattern;
    });
}
GridColumn& GridColumn::setFormat(const FormatSpec& format) {
    return change([&](ColumnDesign& c) { c.format = format; });
}
GridColumn& GridColumn::setEmptyText(const QString& text) {
    return change([&](ColumnDesign& c) { c.format.empty = text.toStdString(); });
}
GridColumn& GridColumn::setPrefix(const QString& prefix) {
    return change([&](ColumnDesign& c) { c.format.prefix = prefix.toStdString(); });
}
GridColumn& GridColumn::setSuffix(const QString& suffix) {
    return change([&](ColumnDesign& c) { c.format.suffix = suffix.toStdString(); });
}
GridColumn& GridColumn::setHint(const QString& hint) {
    return change([&](ColumnDesign& c) { c.hint = hint.toStdString(); });
}
GridColumn& GridColumn::setToolTip(const QString& toolTip) {
    return change([&](ColumnDesign& c) { c.toolTip = toolTip.toStdString(); });
}
GridColumn& GridColumn::setLabel(const QString& field) {
    return change([&](ColumnDesign& c) { c.label = field.toStdString(); });
}
GridColumn& GridColumn::setUnder(const QString& field) {
    grid_->changeDesign([&](Design& design) { putUnder(design, field_, field.toStdString()); });
    return *this;
}
GridColumn& GridColumn::setSpan(int places) {
    return change([&](ColumnDesign& c) { c.span = std::clamp(places, 1, 100); });
}
GridColumn& GridColumn::moveBefore(const QString& field) {
    grid_->changeDesign([&](Design& design) {
        const ColumnDesign* target = design.column(field.toStdString());
        moveColumns(design, {field_}, {target ? target->tier : std::string(), field.toStdString()});
    });
    return *this;
}

Result<void> GridColumn::checkFormat(const QString& pattern) const {
    const TableSchema& schema = grid_->session().schema();
    const auto field = schema.find(field_);
    if (!field) return Error{ErrorCode::NotFound, "There is no column " + field_ + "."};
    ColumnDesign column;
    column.field = field_;
    column.format = formatFor(pattern.toStdString(), schema.field(*field).type == Type::Boolean);
    const auto made =
        formatterFor(textFormatOf(grid_->design(), column, schema.field(*field)), schema, grid_->design());
    return made ? Result<void>() : Result<void>(made.error());
}

GridTier& GridTier::change(const std::function<void(Design&)>& change) {
    grid_->changeDesign(change);
    return *this;
}

bool GridTier::isValid() const { return grid_->design().findTier(name_) != nullptr; }
TierDesign GridTier::settings() const { return *grid_->design().findTier(name_); }
std::vector<std::string> GridTier::columns() const { return fieldsUnder(grid_->design(), name_); }

GridTier& GridTier::add(const std::vector<std::string>& fields) {
    return change([&](Design& d) { d.tier(name_).add(fields); });
}
GridTier& GridTier::addTier(const QString& tier) {
    return change([&](Design& d) { d.tier(name_).addTier(tier.toStdString()); });
}
GridTier& GridTier::setHeading(const QString& heading) {
    return change([&](Design& d) { d.tier(name_).setHeading(heading.toStdString()); });
}
GridTier& GridTier::setAlignment(Alignment alignment) {
    return change([&](Design& d) { d.tier(name_).setAlignment(alignment); });
}
GridTier& GridTier::setLook(TierLook look) {
    return change([&](Design& d) { d.tier(name_).setLook(look); });
}
GridTier& GridTier::setColour(const QString& colour) {
    return change([&](Design& d) { d.tier(name_).setColour(colour.toStdString()); });
}
GridTier& GridTier::setToolTip(const QString& toolTip) {
    return change([&](Design& d) { d.tier(name_).setToolTip(toolTip.toStdString()); });
}
GridTier& GridTier::setFolded(bool folded) {
    return change([&](Design& d) { d.tier(name_).setFolded(folded); });
}
GridTier& GridTier::setLead(const QString& field) {
    return change([&](Design& d) { d.tier(name_).setLead(field.toStdString()); });
}
void GridTier::dissolve() {
    change([&](Design& d) { dissolveTier(d, name_); });
}

}  // namespace jollyrow
