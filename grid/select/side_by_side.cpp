// SPDX-License-Identifier: MIT
// Covered by tests/grid/tst_side_by_side.cpp.
#include "grid/select/side_by_side.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QPushButton>
#include <QVBoxLayout>

#include "core/design/turned_records.h"
#include "grid/api/grid.h"

namespace jollyrow {
namespace {

constexpr int kRow = 26, kColumn = 150, kLeastWide = 420, kBorder = 60;

int differing(const Table& table) {
    const Column& differs = *table.column(*table.schema.find(kDiffers));
    int lines = 0;
    for (std::size_t line = 0; line < table.rows; ++line) lines += differs.integer(static_cast<SourceRow>(line)) != 0;
    return lines;
}

}  // namespace

SideBySide::SideBySide(const SummaryTable& made, const Tokens& look, QWidget* parent)
    : FloatingCard(tr("%1 records side by side").arg(made.design.columns.size() - 1), look, parent),
      table_(new Grid(this)) {
    setObjectName(QStringLiteral("sideBySide"));
    table_->setAccessibleName(tr("Records side by side"));
    const QSize room = parent->size() - QSize(kBorder, 150);
    const int columns = static_cast<int>(made.design.columns.size()), lines = static_cast<int>(made.table->rows);
    table_->setFixedSize(std::clamp(columns * kColumn, std::min(kLeastWide, room.width()), std::max(200, room.width())),
                         std::clamp((lines + 2) * kRow, 4 * kRow, std::max(4 * kRow, room.height())));
    body().addWidget(table_);
    QLabel* facts = quietLabel(tr("%1 of %2 columns differ").arg(differing(*made.table)).arg(lines));
    facts->setObjectName(QStringLiteral("differing"));
    body().addWidget(facts);
    addStretch();
    connect(addButton(tr("Close"), Weight::Plain), &QPushButton::clicked, this, &SideBySide::close);
    if (auto opened = table_->open(made.design, made.table); !opened)
        facts->setText(QString::fromStdString(opened.error().message));
    setFocusProxy(table_);
}

}  // namespace jollyrow
