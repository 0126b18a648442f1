// SPDX-License-Identifier: MIT
#include "workbench/app/unsaved_edits.h"

#include <QCoreApplication>
#include <QMessageBox>

#include "core/formats/text_format.h"
#include "core/session/session.h"
#include "grid/api/grid.h"

namespace jollyrow {
namespace {

QString tr(const char* text) { return QCoreApplication::translate("UnsavedEdits", text); }

}  // namespace

QStringList unsavedEdits(const Grid& grid) {
    constexpr qsizetype kMost = 12;
    QStringList list;
    for (const RecordChanges& changes : grid.records().changes()) {
        if (changes.state == EditState::Saving) continue;  // on its way: the window waits for it
        if (list.size() == kMost) return list << QStringLiteral("…");
        QStringList cells;
        for (const RecordChanges::Cell& cell : changes.cells) cells << tr("%1 \"%2\"").arg(cell.heading, cell.after);
        QString words = changes.change == RecordChange::Delete ? tr("%1: deleted").arg(changes.name)
                        : changes.change == RecordChange::Insert
                            ? tr("new: %1").arg(cells.join(QStringLiteral(", ")))
                            : tr("%1: %2").arg(changes.name, cells.join(QStringLiteral(", ")));
        if (!changes.message.isEmpty()) words += QStringLiteral(" – ") + changes.message;
        list << words;
    }
    return list;
}

bool mayDropEdits(QWidget* parent, Grid& grid, const QString& doing) {
    const QStringList refused = unsavedEdits(grid);
    if (refused.isEmpty()) return true;
    QMessageBox box(QMessageBox::NoIcon, doing,
                    refused.size() == 1 ? tr("A change is not saved and would be lost.")
                                        : tr("Some changes are not saved and would be lost."),
                    QMessageBox::Discard | QMessageBox::Cancel, parent);
    box.setInformativeText(refused.join(u'\n'));
    box.setDefaultButton(QMessageBox::Cancel);
    if (box.exec() != QMessageBox::Discard) return false;
    grid.records().revertAll();  // else they would be offered again
    return true;
}

}  // namespace jollyrow
