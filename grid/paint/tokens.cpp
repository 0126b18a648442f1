// SPDX-License-Identifier: MIT
#include "grid/paint/tokens.h"

#include "grid/paint/contrast.h"
#include "grid/paint/palette_of.h"

namespace jollyrow {
namespace {

Tokens light() {
    Tokens t;
    t.page = QColor(0xfbf8f2);
    t.panel = QColor(0xf4efe6);
    t.panel2 = QColor(0xede6d9);
    t.group2 = QColor(0xf6f1e8);
    t.paper = QColor(0xfffdfa);
    t.ink = QColor(0x1f2a30);
    t.ink2 = QColor(0x536167);
    t.ink3 = QColor(0x7c878a);
    t.hair = QColor(0xded5c6);
    t.hair2 = QColor(0xece5d9);
    t.strongEdge = QColor(0xcfc5b3);
    t.popEdge = QColor(0xc9bda6);
    t.teal = QColor(0x1e7f78);
    t.tealText = QColor(0x135d58);
    t.tealPale = QColor(0xe3f0ed);
    t.tealPaleEdge = QColor(0x9ccbc3);
    t.hoverRow = QColor(0xeef4f1);
    t.buoy = QColor(0xd9512c);
    t.buoyText = QColor(0xa8381a);
    t.buoyPale = QColor(0xfcebe3);
    t.buoyPaleEdge = QColor(0xefc9b8);
    t.brass = QColor(0xa97c22);
    t.brassText = QColor(0x76540f);
    t.brassPale = QColor(0xfbf2dc);
    t.ribbonEdge = QColor(0xe3cf9b);
    t.blue = QColor(0x3f6c9b);
    t.bluePale = QColor(0xdfe8f1);
    t.currentChannel = QColor(0xb2d8d1);
    t.currentEdge = QColor(0x74aea6);
    t.currentStream = QColor(0x4c9a91);
    t.onTeal = QColor(0xffffff);
    t.stripe = QColor(0xfbf8f2);
    t.disabledIcon = QColor(0xa7aba8);
    t.crossLight = QColor(30, 127, 120, 12);
    finishTokens(t);
    return t;
}

Tokens dark() {
    Tokens t;
    t.dark = true;
    t.page = QColor(0x171d20);
    t.panel = QColor(0x1d2528);
    t.panel2 = QColor(0x293336);
    t.group2 = QColor(0x20292c);
    t.paper = QColor(0x13191b);
    t.ink = QColor(0xeae5db);
    t.ink2 = QColor(0xabb4b2);
    t.ink3 = QColor(0x7f8b8c);
    t.hair = QColor(0x364043);
    t.hair2 = QColor(0x262f32);
    t.strongEdge = QColor(0x485356);
    t.popEdge = QColor(0x4a5558);
    t.teal = QColor(0x4fb3a9);
    t.tealText = QColor(0x82cfc6);
    t.tealPale = QColor(0x1b3734);
    t.tealPaleEdge = QColor(0x3b716b);
    t.hoverRow = QColor(0x1b2827);
    t.buoy = QColor(0xee7650);
    t.buoyText = QColor(0xf6a387);
    t.buoyPale = QColor(0x3b241d);
    t.buoyPaleEdge = QColor(0x5a3427);
    t.brass = QColor(0xd2a64c);
    t.brassText = QColor(0xe5c580);
    t.brassPale = QColor(0x332c1c);
    t.ribbonEdge = QColor(0x54482a);
    t.blue = QColor(0x79a6d3);
    t.bluePale = QColor(0x243445);
    t.currentChannel = QColor(0x23544f);
    t.currentEdge = QColor(0x3f8880);
    t.currentStream = QColor(0x69b7ad);
    t.onTeal = QColor(0x0f2322);
    t.stripe = QColor(0x161d1f);
    t.disabledIcon = QColor(0x566164);
    t.crossLight = QColor(79, 179, 169, 14);
    finishTokens(t);
    return t;
}

}  // namespace

const Tokens& tokens(Theme theme) {
    static const Tokens lightTokens = light();
    static const Tokens darkTokens = dark();
    return theme == Theme::Dark ? darkTokens : lightTokens;
}

void finishTokens(Tokens& t) {
    constexpr double kOfShapes = 3.05;  // WCAG 2.1, 1.4.11, and a little for the rounding of colours
    t.entryEdge = t.strongEdge;
    for (const QColor& behind : {t.paper, t.stripe, t.page, t.panel, t.panel2})
        t.entryEdge = legible(t.entryEdge, behind, kOfShapes);
}

Theme themeOf(const QPalette& palette) {
    return palette.color(QPalette::Window).lightness() < 128 ? Theme::Dark : Theme::Light;
}

QPalette paletteFor(Theme theme) {
    const Tokens& t = tokens(theme);
    QPalette p = paletteOf(t, {});
    p.setColor(QPalette::Window, t.page);
    p.setColor(QPalette::Button, t.paper);
    p.setColor(QPalette::BrightText, t.buoyText);
    p.setColor(QPalette::ToolTipBase, t.paper);
    p.setColor(QPalette::ToolTipText, t.ink);
    p.setColor(QPalette::Link, t.tealText);
    p.setColor(QPalette::Light, t.paper);
    p.setColor(QPalette::Midlight, t.hair2);
    p.setColor(QPalette::Mid, t.hair);
    p.setColor(QPalette::Dark, t.strongEdge);
    p.setColor(QPalette::Shadow, t.ink3);
    for (const QPalette::ColorRole role : {QPalette::WindowText, QPalette::Text, QPalette::ButtonText})
        p.setColor(QPalette::Disabled, role, t.disabledIcon);
    return p;
}

}  // namespace jollyrow
