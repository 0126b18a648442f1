// SPDX-License-Identifier: MIT
#include "grid/inside/grid_context.h"

#include "grid/editors/editor_task.h"
#include "grid/paint/palette_of.h"

#include "grid/paint/looks.h"

namespace jollyrow {

std::optional<int> GridContext::columnOf(const QString& field) const {
    const auto& columns = plan().columns;
    for (std::size_t i = 0; i < columns.size(); ++i)
        if (QString::fromStdString(columns[i].design.field) == field) return static_cast<int>(i);
    return std::nullopt;
}

std::optional<int> GridContext::tierOf(const std::string& name) const {
    for (int i = 0; i < tiers(); ++i)
        if (plannedTier(i).design.name == name) return i;
    return std::nullopt;
}

Editor* GridContext::makeEditor(const PlannedColumn& column, QWidget* parent) const {
    const EditorTask task = editorTaskFor(session_, column);
    const auto own = editors_.find(column.design.field);
    Editor* editor = own != editors_.end() && own->second ? own->second(task, parent) : nullptr;
    return editor ? editor : jollyrow::makeEditor(task, parent);
}

void GridContext::refreshLook() {
    const GridTheme theme = design().grid.theme;
    const bool isDark =
        theme == GridTheme::Automatic ? themeOf(grid_.palette()) == Theme::Dark : theme == GridTheme::Dark;
    look_ = lookOf(design(), isDark ? Theme::Dark : Theme::Light);
    // Entries and labels that open in the grid take these.
    if (const QPalette palette = paletteOf(look_, grid_.palette()); viewport().palette() != palette)
        viewport().setPalette(palette);
}

void GridContext::changeDesign(Design next, const QString& label) const {
    if (next == design()) return;
    filterBefore_ = design().filter;
    session_.setDesign(std::move(next));
    relayout_();
    Q_EMIT grid_.designEdited(label);
}

}  // namespace jollyrow
