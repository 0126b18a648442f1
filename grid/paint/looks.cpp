// SPDX-License-Identifier: MIT
// Covered by tests/grid/tst_looks.cpp.
#include "grid/paint/looks.h"

#include <QApplication>

#include <array>

#include "grid/api/grid.h"
#include "grid/paint/contrast.h"

namespace jollyrow {
namespace {

constexpr std::array<LookColour, 27> kColours = {
    {{"paper", &Tokens::paper},       {"stripe", &Tokens::stripe},       {"page", &Tokens::page},
     {"panel", &Tokens::panel},       {"panel2", &Tokens::panel2},       {"group2", &Tokens::group2},
     {"ink", &Tokens::ink},           {"ink2", &Tokens::ink2},           {"ink3", &Tokens::ink3},
     {"hair", &Tokens::hair},         {"hair2", &Tokens::hair2},         {"strongEdge", &Tokens::strongEdge},
     {"popEdge", &Tokens::popEdge},   {"teal", &Tokens::teal},           {"tealText", &Tokens::tealText},
     {"tealPale", &Tokens::tealPale}, {"onTeal", &Tokens::onTeal},       {"hoverRow", &Tokens::hoverRow},
     {"buoy", &Tokens::buoy},         {"buoyText", &Tokens::buoyText},   {"buoyPale", &Tokens::buoyPale},
     {"brass", &Tokens::brass},       {"brassText", &Tokens::brassText}, {"brassPale", &Tokens::brassPale},
     {"blue", &Tokens::blue},         {"bluePale", &Tokens::bluePale},   {"tealPaleEdge", &Tokens::tealPaleEdge}}};

using Given = std::pair<QColor Tokens::*, QRgb>;

void give(Tokens& t, std::initializer_list<Given> colours) {
    for (const auto& [member, rgb] : colours) t.*member = QColor::fromRgb(rgb);
    t.crossLight = t.teal;
    t.crossLight.setAlpha(t.dark ? 20 : 14);
}

void slate(Tokens& t) {
    using T = Tokens;
    t.dark ? give(t, {{&T::paper, 0x15191e},
                      {&T::stripe, 0x191e24},
                      {&T::page, 0x1a1f25},
                      {&T::panel, 0x20262d},
                      {&T::panel2, 0x2c343d},
                      {&T::group2, 0x232a32},
                      {&T::ink, 0xe6eaee},
                      {&T::ink2, 0xaab5bf},
                      {&T::ink3, 0x7d8994},
                      {&T::hair, 0x39434d},
                      {&T::hair2, 0x272f37},
                      {&T::strongEdge, 0x4c5864},
                      {&T::popEdge, 0x4f5b67},
                      {&T::teal, 0x6aa9d8},
                      {&T::tealText, 0x98c8ec},
                      {&T::tealPale, 0x1e3246},
                      {&T::onTeal, 0x0c1b29},
                      {&T::hoverRow, 0x1c2731},
                      {&T::tealPaleEdge, 0x3d678a}})
           : give(t, {{&T::paper, 0xffffff},
                      {&T::stripe, 0xf8f9fa},
                      {&T::page, 0xf6f7f9},
                      {&T::panel, 0xeef1f3},
                      {&T::panel2, 0xe2e7eb},
                      {&T::group2, 0xf1f4f6},
                      {&T::ink, 0x1d2730},
                      {&T::ink2, 0x4f5b66},
                      {&T::ink3, 0x74808a},
                      {&T::hair, 0xd2d9df},
                      {&T::hair2, 0xe6eaed},
                      {&T::strongEdge, 0xbec8d0},
                      {&T::popEdge, 0xb4bfc8},
                      {&T::teal, 0x2d6a9f},
                      {&T::tealText, 0x1d4f7c},
                      {&T::tealPale, 0xe1edf7},
                      {&T::onTeal, 0xffffff},
                      {&T::hoverRow, 0xeef4f9},
                      {&T::tealPaleEdge, 0x9dbfdb}});
}

/// Shallow water, buff land, magenta for what acts.
void chart(Tokens& t) {
    using T = Tokens;
    t.dark ? give(t, {{&T::paper, 0x0f1c26},
                      {&T::stripe, 0x12222d},
                      {&T::page, 0x142530},
                      {&T::panel, 0x1a2d39},
                      {&T::panel2, 0x3a3526},
                      {&T::group2, 0x29281f},
                      {&T::ink, 0xe9eef0},
                      {&T::ink2, 0xaebfc8},
                      {&T::ink3, 0x7c909b},
                      {&T::hair, 0x2f4654},
                      {&T::hair2, 0x1e333f},
                      {&T::strongEdge, 0x476070},
                      {&T::popEdge, 0x4a6474},
                      {&T::teal, 0xd884b8},
                      {&T::tealText, 0xeba9d0},
                      {&T::tealPale, 0x3a2438},
                      {&T::onTeal, 0x2b0f20},
                      {&T::hoverRow, 0x1b2a35},
                      {&T::tealPaleEdge, 0x7b4b6c}})
           : give(t, {{&T::paper, 0xfbfdfe},
                      {&T::stripe, 0xf1f8fb},
                      {&T::page, 0xe9f3f8},
                      {&T::panel, 0xdcecf4},
                      {&T::panel2, 0xf1e4bd},
                      {&T::group2, 0xf8f0d8},
                      {&T::ink, 0x17242d},
                      {&T::ink2, 0x465a66},
                      {&T::ink3, 0x6c818d},
                      {&T::hair, 0xc3d8e2},
                      {&T::hair2, 0xdeebf1},
                      {&T::strongEdge, 0xa9c4d1},
                      {&T::popEdge, 0xa3bfcc},
                      {&T::teal, 0x9c2f73},
                      {&T::tealText, 0x7e2159},
                      {&T::tealPale, 0xf7e4ef},
                      {&T::onTeal, 0xffffff},
                      {&T::hoverRow, 0xeef5f9},
                      {&T::tealPaleEdge, 0xd5a3c1}});
}

void contrastLook(Tokens& t) {
    using T = Tokens;
    t.dark ? give(t, {{&T::paper, 0x000000},    {&T::stripe, 0x000000},    {&T::page, 0x000000},
                      {&T::panel, 0x101010},    {&T::panel2, 0x202020},    {&T::group2, 0x161616},
                      {&T::ink, 0xffffff},      {&T::ink2, 0xe2e2e2},      {&T::ink3, 0xc8c8c8},
                      {&T::hair, 0x9a9a9a},     {&T::hair2, 0x6e6e6e},     {&T::strongEdge, 0xffffff},
                      {&T::popEdge, 0xffffff},  {&T::teal, 0x4fe3d6},      {&T::tealText, 0x7ff0e6},
                      {&T::tealPale, 0x00403b}, {&T::onTeal, 0x000000},    {&T::hoverRow, 0x1c1c1c},
                      {&T::buoy, 0xff8a66},     {&T::buoyText, 0xffb199},  {&T::buoyPale, 0x401505},
                      {&T::brass, 0xffc94d},    {&T::brassText, 0xffd97f}, {&T::brassPale, 0x3a2a00},
                      {&T::blue, 0x8fc4ff},     {&T::bluePale, 0x0d2c4d},  {&T::tealPaleEdge, 0x4fe3d6}})
           : give(t, {{&T::paper, 0xffffff},    {&T::stripe, 0xffffff},    {&T::page, 0xffffff},
                      {&T::panel, 0xf4f4f4},    {&T::panel2, 0xe6e6e6},    {&T::group2, 0xf0f0f0},
                      {&T::ink, 0x000000},      {&T::ink2, 0x262626},      {&T::ink3, 0x3d3d3d},
                      {&T::hair, 0x6b6b6b},     {&T::hair2, 0x9a9a9a},     {&T::strongEdge, 0x000000},
                      {&T::popEdge, 0x000000},  {&T::teal, 0x00584f},      {&T::tealText, 0x00463f},
                      {&T::tealPale, 0xc9efe9}, {&T::onTeal, 0xffffff},    {&T::hoverRow, 0xe9e9e9},
                      {&T::buoy, 0xa62500},     {&T::buoyText, 0x7d1c00},  {&T::buoyPale, 0xffdccf},
                      {&T::brass, 0x6b4a00},    {&T::brassText, 0x573c00}, {&T::brassPale, 0xffeebd},
                      {&T::blue, 0x0b4a86},     {&T::bluePale, 0xcfe3f7},  {&T::tealPaleEdge, 0x00584f}});
}

QColor between(const QColor& a, const QColor& b, double part) {
    return QColor::fromRgbF(static_cast<float>(a.redF() + part * (b.redF() - a.redF())),
                            static_cast<float>(a.greenF() + part * (b.greenF() - a.greenF())),
                            static_cast<float>(a.blueF() + part * (b.blueF() - a.blueF())));
}

/// What follows from a colour that was given, where it is not given itself.
void derive(Tokens& t, const std::map<std::string, std::string>& given) {
    const auto isGiven = [&](const char* name) { return given.contains(name); };
    const auto follow = [&](const char* name, QColor& colour, const QColor& value) {
        if (!isGiven(name)) colour = value;
    };
    if (isGiven("paper")) follow("stripe", t.stripe, between(t.paper, t.ink, 0.025));
    for (const auto& [from, base, text, pale] :
         {std::tuple("teal", &Tokens::teal, std::pair("tealText", &Tokens::tealText),
                     std::pair("tealPale", &Tokens::tealPale)),
          std::tuple("buoy", &Tokens::buoy, std::pair("buoyText", &Tokens::buoyText),
                     std::pair("buoyPale", &Tokens::buoyPale)),
          std::tuple("brass", &Tokens::brass, std::pair("brassText", &Tokens::brassText),
                     std::pair("brassPale", &Tokens::brassPale))}) {
        if (!isGiven(from)) continue;
        follow(text.first, t.*text.second, t.*base);
        follow(pale.first, t.*pale.second, between(t.paper, t.*base, t.dark ? 0.25 : 0.13));
    }
    if (isGiven("blue")) follow("bluePale", t.bluePale, between(t.paper, t.blue, t.dark ? 0.25 : 0.15));
    if (!isGiven("teal")) return;
    follow("tealPaleEdge", t.tealPaleEdge, between(t.paper, t.teal, 0.45));
    follow("hoverRow", t.hoverRow, between(t.paper, t.teal, 0.07));
    follow("onTeal", t.onTeal, luminance(t.teal) > 0.35 ? QColor(0x0f2322) : QColor(0xffffff));
    t.crossLight = t.teal;
    t.crossLight.setAlpha(t.dark ? 20 : 14);
}

void makeLegible(Tokens& t, double least, std::vector<std::string>* adjusted, std::vector<std::string>* failed) {
    using Members = std::vector<QColor Tokens::*>;
    const Members all = {&Tokens::paper,  &Tokens::stripe, &Tokens::page,     &Tokens::panel,
                         &Tokens::panel2, &Tokens::group2, &Tokens::hoverRow, &Tokens::tealPale};
    const Members plain = {&Tokens::paper, &Tokens::page, &Tokens::panel};
    for (const auto& [name, text, behind] :
         {std::tuple("ink", &Tokens::ink, all), std::tuple("ink2", &Tokens::ink2, all),
          std::tuple("tealText", &Tokens::tealText, plain), std::tuple("buoyText", &Tokens::buoyText, plain),
          std::tuple("brassText", &Tokens::brassText, plain),
          std::tuple("onTeal", &Tokens::onTeal, Members{&Tokens::teal})}) {
        const QColor before = t.*text;
        for (const auto surface : behind) t.*text = legible(t.*text, t.*surface, least);
        if (t.*text != before && adjusted) adjusted->emplace_back(name);
        for (const auto surface : behind)
            if (failed && contrast(t.*text, t.*surface) < least - 0.05) {
                failed->emplace_back(name);
                break;
            }
    }
}

LookDesign& ofApplication() {
    static LookDesign look{"yard"};
    return look;
}

}  // namespace

std::span<const LookColour> lookColours() { return kColours; }

Tokens readyLook(std::string_view name, Theme theme) {
    Tokens t = tokens(theme);
    if (name == "slate") slate(t);
    if (name == "chart") chart(t);
    if (name == "contrast") contrastLook(t);
    finishTokens(t);
    return t;
}

Tokens ownLook(const LookDesign& look, Theme theme, std::vector<std::string>* adjusted,
               std::vector<std::string>* failed) {
    Tokens t = readyLook(look.base, theme);
    const auto& given = theme == Theme::Dark ? look.dark : look.light;
    if (given.empty()) return t;
    for (const LookColour& colour : kColours)
        if (const auto own = given.find(std::string(colour.name)); own != given.end())
            t.*colour.member = QColor(QString::fromStdString(own->second));
    derive(t, given);
    makeLegible(t, look.base == "contrast" ? 7 : 4.5, adjusted, failed);
    finishTokens(t);
    return t;
}

Tokens lookOf(const Design& design, Theme theme) {
    const std::string& name = design.grid.look;
    if (isReadyLook(name)) return readyLook(name, theme);
    for (const LookDesign& own : design.looks)
        if (own.name == name) return ownLook(own, theme);
    return ownLook(isReadyLook(ofApplication().name) ? LookDesign{"", ofApplication().name} : ofApplication(), theme);
}

void setApplicationLook(const LookDesign& look) {
    if (ofApplication() == look) return;
    ofApplication() = look;
    for (QWidget* widget : QApplication::allWidgets())
        if (auto* grid = qobject_cast<Grid*>(widget)) {
            QEvent changed(QEvent::PaletteChange);
            QCoreApplication::sendEvent(grid, &changed);
        }
}

LookDesign applicationLook() { return ofApplication(); }

const Tokens& tokensAt(const QWidget& widget) {
    for (const QWidget* at = &widget; at; at = at->parentWidget())
        if (const auto* grid = qobject_cast<const Grid*>(at)) return grid->look();
    return tokens(themeOf(widget.palette()));
}

}  // namespace jollyrow
