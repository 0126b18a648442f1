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

QString nameOf(const Record& record) {
    QStringList parts;
    for (const Value& part : record.key()) {
        std::string text;
        appendPlain(text, part);
        parts << QString::fromStdString(text);
    }
    return parts.join(QStringLiteral(", "));
}

}  // namespace

QStringList refusedEdits(Grid& grid) {
    constexpr qsizetype kMost = 12;
    QStringList list;
    const Session& session = grid.session();
    if (!session.snapshot()) return list;
    for (const auto& [place, edit] : session.snapshot()->edits->cells()) {
        if (edit.state != EditState::Refused) continue;
        if (list.size() == kMost) return list << QStringLiteral("…");
        const Record record(session.snapshot(), session.refOf(place.first), session.sharedPlan());
        const std::string& field = session.schema().field(place.second).name;
        list << tr("%1, %2: \"%3\" – %4")
                    .arg(nameOf(record), QString::fromStdString(field), record.text(field),
                         QString::fromStdString(edit.message));
    }
    return list;
}

bool mayDropEdits(QWidget* parent, Grid& grid, const QString& doing) {
    const QStringList refused = refusedEdits(grid);
    if (refused.isEmpty()) return true;
    QMessageBox box(QMessageBox::NoIcon, doing,
                    refused.size() == 1 ? tr("An edit could not be saved and would be lost.")
                                        : tr("Some edits could not be saved and would be lost."),
                    QMessageBox::Discard | QMessageBox::Cancel, parent);
    box.setInformativeText(refused.join(u'\n'));
    box.setDefaultButton(QMessageBox::Cancel);
    return box.exec() == QMessageBox::Discard;
}

}  // namespace jollyrow
