// SPDX-License-Identifier: MIT
#include "workbench/controls/shape_box.h"

#include <QAbstractItemView>
#include <QCoreApplication>
#include <QPainter>

#include "grid/faces/parts/mark_part.h"
#include "workbench/app/look.h"

namespace jollyrow {
namespace {

QString words(const char* text) { return QCoreApplication::translate("ShapeBox", text); }

/// Sets that go from the least value to the greatest; each shape is told without its colour.
const std::vector<std::vector<StyleIcon>>& iconSets() {
    static const std::vector<std::vector<StyleIcon>> kSets = {
        {{MarkShape::Cross, "buoy"}, {MarkShape::Dash, "quiet"}, {MarkShape::Tick, "teal"}},
        {{MarkShape::Tick, "teal"}, {MarkShape::Dash, "quiet"}, {MarkShape::Cross, "buoy"}},
        {{MarkShape::Ring, "blue"}, {MarkShape::Half, "blue"}, {MarkShape::Disc, "blue"}},
        {{MarkShape::Disc, "teal"}, {MarkShape::Triangle, "brass"}, {MarkShape::Diamond, "buoy"}},
        {{MarkShape::Dash, "quiet"}, {MarkShape::Ring, "blue"}, {MarkShape::Half, "blue"}, {MarkShape::Disc, "blue"}}};
    return kSets;
}

/// The shapes of a set side by side.
QIcon setIcon(const std::vector<StyleIcon>& icons) {
    const int step = 14;
    QPixmap picture(static_cast<int>(icons.size()) * step * 2, 32);
    picture.setDevicePixelRatio(2);
    picture.fill(Qt::transparent);
    QPainter painter(&picture);
    for (std::size_t i = 0; i < icons.size(); ++i)
        drawMark(painter, icons[i].shape, {step / 2.0 + static_cast<double>(i) * step, 8}, 11,
                 shapeInk(icons[i].colour, look(), look().ink), look().paper);
    return picture;
}

}  // namespace

QIcon shapeIcon(MarkShape shape, const std::string& ink) {
    QPixmap picture(32, 32);
    picture.setDevicePixelRatio(2);
    picture.fill(Qt::transparent);
    QPainter painter(&picture);
    drawMark(painter, shape, {8, 8}, 12, shapeInk(ink, look(), look().teal), look().paper);
    return picture;
}

QStringList shapeNames() {
    QStringList names;
    for (const char* name : {QT_TRANSLATE_NOOP("ShapeBox", "none"), QT_TRANSLATE_NOOP("ShapeBox", "disc"),
                             QT_TRANSLATE_NOOP("ShapeBox", "ring"), QT_TRANSLATE_NOOP("ShapeBox", "half"),
                             QT_TRANSLATE_NOOP("ShapeBox", "square"), QT_TRANSLATE_NOOP("ShapeBox", "diamond"),
                             QT_TRANSLATE_NOOP("ShapeBox", "triangle"), QT_TRANSLATE_NOOP("ShapeBox", "tick"),
                             QT_TRANSLATE_NOOP("ShapeBox", "cross"), QT_TRANSLATE_NOOP("ShapeBox", "dash"),
                             QT_TRANSLATE_NOOP("ShapeBox", "clock")})
        names << words(name);
    return names;
}

PickBox* iconsBox(const std::vector<StyleIcon>& icons, const std::function<void(std::vector<StyleIcon>)>& take,
                  QWidget* parent) {
    auto* box = new PickBox(parent);
    std::vector<std::vector<StyleIcon>> offered = {{}};
    const QStringList names = shapeNames();
    box->addItem(words(QT_TRANSLATE_NOOP("ShapeBox", "no icon")));
    for (int shape = 1; shape < names.size(); ++shape) {
        offered.push_back({{static_cast<MarkShape>(shape), icons.size() == 1 ? icons.front().colour : ""}});
        box->addItem(shapeIcon(static_cast<MarkShape>(shape), offered.back().front().colour), names[shape]);
    }
    for (const std::vector<StyleIcon>& set : iconSets()) {
        offered.push_back(set);
        QStringList shapes;
        for (const StyleIcon& icon : set) shapes << names[static_cast<int>(icon.shape)];
        box->addItem(setIcon(set),
                     words(QT_TRANSLATE_NOOP("ShapeBox", "%1 by value")).arg(shapes.join(QStringLiteral(", "))));
    }
    const auto isSame = [&](const std::vector<StyleIcon>& set) {
        return std::equal(
            set.begin(), set.end(), icons.begin(), icons.end(),
            [](const StyleIcon& a, const StyleIcon& b) { return a.shape == b.shape && a.colour == b.colour; });
    };
    const auto known = std::find_if(offered.begin(), offered.end(), isSame);
    if (known == offered.end()) {
        offered.push_back(icons);
        box->addItem(setIcon(icons), words(QT_TRANSLATE_NOOP("ShapeBox", "its own")));
        box->setCurrentIndex(box->count() - 1);
    } else {
        box->setCurrentIndex(static_cast<int>(known - offered.begin()));
    }
    // As wide as what is chosen; the list has room for sets.
    constexpr int kShape = 14, kMostInASet = 5;
    box->setIconSize(QSize(std::max(16, kShape * static_cast<int>(icons.size())), 16));
    box->view()->setIconSize(QSize(kShape * kMostInASet, 16));
    QObject::connect(box, &QComboBox::activated, box, [offered, take](int chosen) {
        if (chosen >= 0) take(offered[static_cast<std::size_t>(chosen)]);
    });
    return box;
}

}  // namespace jollyrow
