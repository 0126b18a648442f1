// SPDX-License-Identifier: MIT
#include "workbench/controls/ink_box.h"

#include <QColorDialog>
#include <QPainter>

#include "grid/faces/parts/part_face.h"
#include "grid/paint/cell_looks.h"
#include "workbench/app/look.h"

namespace jollyrow {
namespace {

QIcon inkIcon(const std::string& ink, bool isBackground) {
    QPixmap picture(32, 32);
    picture.setDevicePixelRatio(2);
    picture.fill(Qt::transparent);
    QPainter painter(&picture);
    painter.setRenderHint(QPainter::Antialiasing);
    painter.setPen(QPen(look().entryEdge, 1));
    const QColor colour = isBackground ? styleBackground(ink, look()) : textInk(ink, look(), look().ink);
    painter.setBrush(ink.empty() ? QBrush(Qt::NoBrush) : QBrush(colour));
    painter.drawRoundedRect(QRectF(2, 2, 12, 12), 3, 3);
    return picture;
}

}  // namespace

PickBox* inkBox(const std::string& ink, bool isBackground, const std::function<void(std::string)>& take,
                QWidget* parent) {
    constexpr int kWidest = 108;  // of its words
    auto* box = new PickBox(parent);
    box->setMinimumWidth(scaled(kWidest));
    box->setAccessibleName(isBackground ? QObject::tr("Background") : QObject::tr("Colour"));
    const std::pair<const char*, QString> inks[] = {
        {"", isBackground ? QObject::tr("as it is") : QObject::tr("theme's")},
        {"ink", QObject::tr("ink")},
        {"quiet", QObject::tr("quiet")},
        {"teal", QObject::tr("teal")},
        {"buoy", QObject::tr("buoy")},
        {"brass", QObject::tr("brass")},
        {"blue", QObject::tr("blue")}};
    for (const auto& [name, words] : inks) box->addItem(inkIcon(name, isBackground), words, QString::fromLatin1(name));
    const QString now = QString::fromStdString(ink);
    if (box->findData(now) < 0) box->addItem(inkIcon(ink, isBackground), now, now);
    box->addItem(QObject::tr("other…"), QStringLiteral("?"));
    box->setCurrentIndex(box->findData(now));
    QObject::connect(box, &QComboBox::activated, box, [box, now, take](int index) {
        QString chosen = box->itemData(index).toString();
        if (chosen == QLatin1String("?")) {
            const QColor colour = QColorDialog::getColor(QColor(now), box->window());
            if (!colour.isValid()) return box->setCurrentIndex(box->findData(now));
            chosen = colour.name();
        }
        take(chosen.toStdString());
    });
    return box;
}

}  // namespace jollyrow
