// SPDX-License-Identifier: MIT
// Covered by tests/workbench/tst_server.cpp.
#include "workbench/popovers/trigger_popover.h"

#include <QFontDatabase>
#include <QGuiApplication>
#include <QHBoxLayout>
#include <QLabel>
#include <QPlainTextEdit>
#include <QPushButton>
#include <QVBoxLayout>

#include <QClipboard>

#include "workbench/app/look.h"
#include "workbench/fittings/fitting_section.h"

namespace jollyrow {

TriggerPopover::TriggerPopover(QWidget* window, const QString& table, const QString& sql)
    : Popover(tr("What tells the grid"), window), sql_(new QPlainTextEdit(sql.trimmed(), this)) {
    auto* words = quietLabel(
        tr("A server does not tell by itself what others save. This trigger does, by the keys of the "
           "records of %1; the owner of the tables runs it once. Tables that columns are taken from tell that "
           "something was changed. The grid runs nothing of it.")
            .arg(table),
        this);
    words->setWordWrap(true);
    body()->addWidget(words);
    sql_->setObjectName(QStringLiteral("triggerSql"));
    sql_->setAccessibleName(tr("SQL of the trigger"));
    sql_->setReadOnly(true);
    sql_->setLineWrapMode(QPlainTextEdit::NoWrap);
    sql_->setTextInteractionFlags(Qt::TextSelectableByMouse | Qt::TextSelectableByKeyboard);
    QFont fixed = QFontDatabase::systemFont(QFontDatabase::FixedFont);
    fixed.setPixelSize(12);
    sql_->setFont(fixed);
    sql_->setMinimumHeight(scaled(330));
    body()->addWidget(sql_);
    auto* row = new QHBoxLayout;
    auto* said = quietLabel({}, this);
    auto* copy = new QPushButton(tr("Copy"), this);
    copy->setObjectName(QStringLiteral("copyTrigger"));
    copy->setProperty("primary", true);
    row->addWidget(said, 1);
    row->addWidget(copy);
    body()->addLayout(row);
    connect(copy, &QPushButton::clicked, this, [sql, said] {
        QGuiApplication::clipboard()->setText(sql);
        said->setText(tr("Copied. Run it on the server."));
    });
    copy->setFocus();
}

}  // namespace jollyrow
