// SPDX-License-Identifier: MIT
#include "workbench/app/look.h"

#include <QApplication>
#include <QFontDatabase>
#include <QFontInfo>
#include <QStyleFactory>

#include <algorithm>
#include <cmath>
#include <utility>

namespace jollyrow {
namespace {

Theme theme = Theme::Light;
constexpr int kDesignedPx = 12;
double fixedScale = 0;  ///< 0: the system's

/// The system's font size, as far as it says one; pictures made without a desktop use the size drawn for.
int systemPx() {
    if (fixedScale > 0) return static_cast<int>(std::lround(kDesignedPx * fixedScale));
    if (QGuiApplication::platformName() == QLatin1String("offscreen")) return kDesignedPx;
    return std::clamp(QFontInfo(QFontDatabase::systemFont(QFontDatabase::GeneralFont)).pixelSize(), kDesignedPx,
                      3 * kDesignedPx);
}

QString styleSheet(const Tokens& t) {
    QString css = QStringLiteral(R"(
QToolTip { background: @paper; color: @ink; border: 1px solid @popEdge; padding: 4px 6px; }
QLineEdit, QSpinBox, QDoubleSpinBox { background: @paper; border: 1px solid @entryEdge; border-radius: 4px; padding: 3px 7px; min-height: 16px; selection-background-color: @teal; selection-color: @onTeal; }
QLineEdit:focus, QSpinBox:focus, QDoubleSpinBox:focus { border: 1px solid @teal; }
QSpinBox::up-button, QSpinBox::down-button, QDoubleSpinBox::up-button, QDoubleSpinBox::down-button { width: 0; border: none; }
QLineEdit#cellEntry { border: none; padding: 0; min-height: 0; background: transparent; }
QComboBox { background: @paper; border: 1px solid @entryEdge; border-radius: 4px; padding: 3px 8px; min-height: 16px; }
QComboBox:focus, QComboBox:on { border: 1px solid @teal; }
QComboBox::drop-down { border: none; width: 20px; }
QComboBox { combobox-popup: 0; }
QComboBox QAbstractItemView, QAbstractItemView { background: @paper; border: 1px solid @popEdge; padding: 3px; outline: none; selection-background-color: @tealPale; selection-color: @ink; }
QAbstractItemView::item { padding: 4px 6px; border-radius: 3px; color: @ink; }
QAbstractItemView::item:hover { background: @hoverRow; }
QAbstractItemView::item:selected { background: @tealPale; color: @ink; }
QPushButton { background: @paper; border: 1px solid @hair; border-radius: 5px; padding: 4px 12px; min-height: 16px; font-weight: 500; }
QPushButton:hover { background: @hoverRow; border-color: @strongEdge; }
QPushButton:focus { border: 1px solid @teal; }
QPushButton:disabled { color: @disabledIcon; background: @page; }
QPushButton[primary="true"] { background: @teal; color: @onTeal; border: 1px solid @teal; }
QPushButton[primary="true"]:hover { background: @tealText; border-color: @tealText; color: @page; }
QPushButton[flat="true"] { background: transparent; border: 1px solid transparent; color: @tealText; }
QToolButton { background: transparent; border: 1px solid transparent; border-radius: 5px; padding: 3px; }
QToolButton:hover { background: @hoverRow; border-color: @hair; }
QToolButton:focus { border-color: @teal; }
QMenu { background: @paper; border: 1px solid @popEdge; padding: 4px; }
QMenu::item { padding: 5px 18px; border-radius: 4px; }
QMenu::item:selected { background: @tealPale; color: @ink; }
QMenu::separator { height: 1px; background: @hair2; margin: 4px 6px; }
QCheckBox { spacing: 9px; }
QCheckBox::indicator { width: @box; height: @box; }
QAbstractScrollArea::corner { background: transparent; border: none; }
QScrollBar:vertical { background: transparent; width: 10px; margin: 0; }
QScrollBar:horizontal { background: transparent; height: 10px; margin: 0; }
QScrollBar::handle { background: @entryEdge; border-radius: 3px; margin: 2px; }
QScrollBar::handle:hover { background: @ink3; }
QScrollBar::handle:vertical { min-height: 28px; }
QScrollBar::handle:horizontal { min-width: 28px; }
QScrollBar::add-line, QScrollBar::sub-line { width: 0; height: 0; }
QScrollBar::add-page, QScrollBar::sub-page { background: transparent; }
QProgressBar { background: @bluePale; border: none; border-radius: 3px; max-height: 6px; min-height: 6px; }
QProgressBar::chunk { background: @teal; border-radius: 3px; }
QMessageBox QLabel { color: @ink; }
)");
    const std::pair<const char*, QColor> names[] = {{"@paper", t.paper},
                                                    {"@page", t.page},
                                                    {"@ink", t.ink},
                                                    {"@hair2", t.hair2},
                                                    {"@hair", t.hair},
                                                    {"@popEdge", t.popEdge},
                                                    {"@strongEdge", t.strongEdge},
                                                    {"@entryEdge", t.entryEdge},
                                                    {"@tealPale", t.tealPale},
                                                    {"@tealText", t.tealText},
                                                    {"@teal", t.teal},
                                                    {"@onTeal", t.onTeal},
                                                    {"@hoverRow", t.hoverRow},
                                                    {"@disabledIcon", t.disabledIcon},
                                                    {"@bluePale", t.bluePale}};
    // "@ink3" before "@ink", "@hair2" before "@hair": longer names first.
    css.replace(QLatin1String("@ink3"), t.ink3.name());
    css.replace(QLatin1String("@box"), QString::number(scaled(15)) + QStringLiteral("px"));
    for (const auto& [name, colour] : names) css.replace(QLatin1String(name), colour.name());
    return css;
}

}  // namespace

void applyLook(QApplication& application, Theme wanted) {
    theme = wanted;
    application.setStyle(QStyleFactory::create(QStringLiteral("Fusion")));
    application.setFont(bodyFont());
    application.setPalette(paletteFor(theme));
    application.setStyleSheet(styleSheet(tokens(theme)));
}

Theme currentTheme() { return theme; }
const Tokens& look() { return tokens(theme); }

QFont sized(int pixelSize, QFont::Weight weight) {
    static const bool hasInter = QFontDatabase::families().contains(QLatin1String("Inter"));
    QFont font = hasInter ? QFont(QStringLiteral("Inter")) : QFontDatabase::systemFont(QFontDatabase::GeneralFont);
    font.setPixelSize(pixelSize * systemPx() / kDesignedPx);
    font.setWeight(weight);
    font.setHintingPreference(QFont::PreferVerticalHinting);
    return font;
}

double textScale() { return static_cast<double>(systemPx()) / kDesignedPx; }
int scaled(int pixels) { return static_cast<int>(std::lround(pixels * textScale())); }
void setTextScale(double scale) { fixedScale = scale; }

QFont bodyFont() { return sized(kDesignedPx); }

}  // namespace jollyrow
