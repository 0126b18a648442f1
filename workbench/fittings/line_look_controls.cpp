// SPDX-License-Identifier: MIT
#include "workbench/fittings/line_look_controls.h"

#include <QAction>
#include <QCoreApplication>
#include <QLineEdit>
#include <QMenu>
#include <QPainter>
#include <QRegularExpression>

#include <utility>

#include "workbench/app/look.h"
#include "workbench/controls/controls.h"

namespace jollyrow {
namespace {

QString words(const char* text) { return QCoreApplication::translate("LineLook", text); }

/// A square of the colour; crossed out where there is none.
QIcon swatch(const QString& colour) {
    constexpr int kSize = 14;
    QPixmap picture(QSize(kSize, kSize) * 2);
    picture.setDevicePixelRatio(2);
    picture.fill(Qt::transparent);
    QPainter painter(&picture);
    painter.setRenderHint(QPainter::Antialiasing);
    painter.setPen(QPen(look().entryEdge, 1));
    painter.setBrush(colour.isEmpty() ? QBrush(Qt::NoBrush) : QBrush(QColor(colour)));
    painter.drawRoundedRect(QRectF(1, 1, kSize - 2, kSize - 2), 3, 3);
    if (colour.isEmpty()) painter.drawLine(QPointF(3, kSize - 3), QPointF(kSize - 3, 3));
    return picture;
}

constexpr std::pair<const char*, const char*> kTints[] = {
    {QT_TRANSLATE_NOOP("LineLook", "Sand"), "#efe3c8"},  {QT_TRANSLATE_NOOP("LineLook", "Straw"), "#f6edb8"},
    {QT_TRANSLATE_NOOP("LineLook", "Reed"), "#dcead2"},  {QT_TRANSLATE_NOOP("LineLook", "Water"), "#d3e9e6"},
    {QT_TRANSLATE_NOOP("LineLook", "Sky"), "#d8e4f2"},   {QT_TRANSLATE_NOOP("LineLook", "Heather"), "#e6deef"},
    {QT_TRANSLATE_NOOP("LineLook", "Coral"), "#f6ddd4"}, {QT_TRANSLATE_NOOP("LineLook", "Deep water"), "#1f4e53"}};

}  // namespace

QLineEdit* colourEntry(const QString& accessibleName, const std::string& colour, QWidget* parent,
                       std::function<void(std::string)> take) {
    auto* entry = new QLineEdit(QString::fromStdString(colour), parent);
    entry->setAccessibleName(accessibleName);
    entry->setToolTip(words("#rrggbb, or taken from the list; empty is the theme's"));
    entry->setPlaceholderText(words("theme's"));
    entry->setFixedWidth(scaled(102));
    QAction* list = entry->addAction(swatch(entry->text()), QLineEdit::LeadingPosition);
    list->setToolTip(words("Colours that suit both themes"));
    QObject::connect(entry, &QLineEdit::textChanged, entry, [list, take = std::move(take)](const QString& text) {
        static const QRegularExpression kColour(QStringLiteral("^#[0-9a-fA-F]{6}$"));
        if (!text.isEmpty() && !kColour.match(text).hasMatch()) return;  // still being typed
        list->setIcon(swatch(text));
        take(text.toStdString());
    });
    QObject::connect(list, &QAction::triggered, entry, [entry] {
        QMenu menu(entry);
        QObject::connect(menu.addAction(swatch({}), words("The theme's")), &QAction::triggered, entry,
                         [entry] { entry->clear(); });
        for (const auto& [name, tint] : kTints)
            QObject::connect(menu.addAction(swatch(QLatin1String(tint)), words(name)), &QAction::triggered, entry,
                             [entry, text = QLatin1String(tint)] { entry->setText(text); });
        menu.exec(entry->mapToGlobal(QPoint(0, entry->height() + 2)));
    });
    return entry;
}

QComboBox* weightPick(const QString& accessibleName, LineWeight weight, QWidget* parent,
                      std::function<void(LineWeight)> take) {
    auto* pick = new PickBox(parent);
    pick->setAccessibleName(accessibleName);
    pick->addItems({words("theme's"), words("regular"), words("medium"), words("bold")});
    pick->setCurrentIndex(static_cast<int>(weight));
    pick->setMinimumWidth(scaled(92));
    QObject::connect(pick, &QComboBox::activated, pick,
                     [take = std::move(take)](int chosen) { take(static_cast<LineWeight>(chosen)); });
    return pick;
}

}  // namespace jollyrow
