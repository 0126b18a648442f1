// SPDX-License-Identifier: MIT
// Covered by tests/grid/tst_block_edit.cpp.
#include "grid/records/paste_card.h"

#include "grid/paint/grouped.h"

#include <QGridLayout>
#include <QLabel>
#include <QPushButton>
#include <QVBoxLayout>

namespace jollyrow {
namespace {

constexpr std::size_t kMostShown = 8;
constexpr int kTextWidth = 150, kWhyWidth = 300;

QString elided(const QLabel& label, const QString& text, int width) {
    return label.fontMetrics().elidedText(QString(text).replace(u'\n', u' '), Qt::ElideRight, width);
}

}  // namespace

PasteCard::PasteCard(const BlockChange& change, const Tokens& look, QWidget* parent)
    : FloatingCard(change.refused.size() == 1 ? tr("1 value cannot be written")
                                              : tr("%1 values cannot be written").arg(grouped(change.refused.size())),
                   look, parent) {
    setObjectName(QStringLiteral("pasteCard"));
    auto* table = new QGridLayout;
    table->setHorizontalSpacing(12);
    table->setVerticalSpacing(4);
    for (std::size_t i = 0; i < std::min(change.refused.size(), kMostShown); ++i) {
        const BlockChange::Refusal& refusal = change.refused[i];
        const int row = static_cast<int>(i);
        table->addWidget(quietLabel(tr("Line %1, %2").arg(grouped(refusal.line + 1)).arg(refusal.heading)), row, 0);
        auto* text = new QLabel(this);
        text->setTextFormat(Qt::PlainText);
        text->setText(elided(*text, refusal.text, kTextWidth));
        text->setToolTip(refusal.text);
        table->addWidget(text, row, 1);
        auto* why = new QLabel(this);
        why->setTextFormat(Qt::PlainText);
        why->setText(elided(*why, refusal.why, kWhyWidth));
        why->setToolTip(refusal.why);
        QPalette red = why->palette();
        red.setColor(QPalette::WindowText, look.buoyText);
        why->setPalette(red);
        table->addWidget(why, row, 2);
    }
    table->setColumnStretch(2, 1);
    body().addLayout(table);
    if (change.refused.size() > kMostShown)
        body().addWidget(quietLabel(tr("and %1 more").arg(grouped(change.refused.size() - kMostShown))));
    const auto rest = static_cast<qsizetype>(change.cells.size());
    const auto records = static_cast<qsizetype>(change.records.size());
    addStretch();
    QPushButton* nothing = addButton(tr("Write nothing"), Weight::Plain);
    connect(nothing, &QPushButton::clicked, this, [this] { close(); });
    if (change.isEmpty()) return;
    const QString what = records == 0 ? tr("%1 values").arg(grouped(rest))
                         : rest == 0  ? tr("%1 new records").arg(grouped(records))
                                      : tr("%1 values and %2 new records").arg(grouped(rest)).arg(grouped(records));
    QPushButton* agree = addButton(tr("Write the other %1").arg(what), Weight::Main);
    agree->setObjectName(QStringLiteral("writeRest"));
    connect(agree, &QPushButton::clicked, this, &PasteCard::agreed);
}

}  // namespace jollyrow
