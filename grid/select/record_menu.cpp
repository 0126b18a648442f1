// SPDX-License-Identifier: MIT
#include "grid/select/record_menu.h"

#include <QMenu>

#include "core/formats/text_format.h"

namespace jollyrow {

void RecordMenu::pin(const Key& key, std::optional<PinnedRecord::Edge> edge) {
    Design design = context_.design();
    std::erase_if(design.grid.pinnedRecords, [&](const PinnedRecord& r) { return r.key == key; });
    if (edge) design.grid.pinnedRecords.push_back({key, *edge});
    context_.changeDesign(std::move(design), edge ? Grid::tr("Pin a record") : Grid::tr("Unpin a record"));
}

void RecordMenu::open(std::int64_t line, const QPoint& global) {
    const Record record = rows_.isRecord(line) ? context_.record(rows_.rowAt(line)) : Record();
    if (!record.isValid() || record.key().empty()) return;
    Key key;
    for (const Value& value : record.key()) appendPlain(key.emplace_back(), value);
    const auto& pinned = context_.design().grid.pinnedRecords;
    const bool isPinned =
        std::any_of(pinned.begin(), pinned.end(), [&](const PinnedRecord& r) { return r.key == key; });
    Grid* grid = &context_.grid();
    auto* menu = new QMenu(grid);
    menu->setAttribute(Qt::WA_DeleteOnClose);
    menu->setObjectName(QStringLiteral("recordMenu"));
    const auto add = [&](const QString& words, const QKeySequence& keys, auto act) {
        menu->addAction(words, grid, act)->setShortcut(keys);
    };
    add(Grid::tr("Copy"), QKeySequence::Copy, [this] { copy_(Headings::Without); });
    add(Grid::tr("Copy with headings"), QKeySequence(QStringLiteral("Ctrl+Shift+C")),
        [this] { copy_(Headings::With); });
    if (cursor_.selection().rows().count() > 1)
        add(Grid::tr("Side by side"), QKeySequence(QStringLiteral("Ctrl+B")),
            [this] { context_.grid().selection().openSideBySide(); });
    if (context_.isEditable() && context_.schema().writable) {
        add(Grid::tr("Paste"), QKeySequence::Paste, [this] { records_.paste(); });
        add(Grid::tr("Fill down"), QKeySequence(QStringLiteral("Ctrl+D")),
            [this] { records_.fill(RecordControl::Fill::Down); });
        add(Grid::tr("Fill on by the first two"), QKeySequence(QStringLiteral("Ctrl+E")),
            [this] { records_.fill(RecordControl::Fill::Series); });
        menu->addSeparator();
    }
    if (records_.canInsert()) {
        add(Grid::tr("New record"), QKeySequence(Qt::Key_Insert), [this] { records_.insert(); });
        add(Grid::tr("Duplicate this record"), QKeySequence(QStringLiteral("Ctrl+Shift+D")),
            [this] { records_.duplicate(); });
    }
    if (records_.canDelete())
        add(Grid::tr("Delete the selected records"), QKeySequence(QStringLiteral("Ctrl+Del")),
            [this] { records_.remove(); });
    if (const CellPlace place{line, cursor_.column()}; pictures_.pictureIn(place.column)) {
        menu->addSeparator();
        if (pictures_.takes(place.column)) {
            menu->addAction(Grid::tr("Load a picture…"), grid, [this, place] { pictures_.load(place); });
            menu->addAction(Grid::tr("Paste a picture"), grid, [this, place] { pictures_.paste(place); });
        }
        menu->addAction(Grid::tr("Copy the picture"), grid, [this, place] { pictures_.copy(place); });
        menu->addAction(Grid::tr("Save the picture…"), grid, [this, place] { pictures_.save(place); });
        if (pictures_.takes(place.column))
            menu->addAction(Grid::tr("Take the picture out"), grid, [this, place] { pictures_.empty(place); });
    }
    menu->addSeparator();
    if (isPinned) {
        menu->addAction(Grid::tr("Unpin this record"), grid, [this, key] { pin(key, std::nullopt); });
    } else {
        menu->addAction(Grid::tr("Pin this record at the top"), grid,
                        [this, key] { pin(key, PinnedRecord::Edge::Top); });
        menu->addAction(Grid::tr("Pin this record at the bottom"), grid,
                        [this, key] { pin(key, PinnedRecord::Edge::Bottom); });
    }
    menu->popup(global);
}

}  // namespace jollyrow
