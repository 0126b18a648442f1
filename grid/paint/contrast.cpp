// SPDX-License-Identifier: MIT
#include "grid/paint/contrast.h"

#include <algorithm>
#include <cmath>
#include <map>
#include <tuple>

namespace jollyrow {

double luminance(const QColor& colour) {
    const auto linear = [](double part) {
        return part <= 0.04045 ? part / 12.92 : std::pow((part + 0.055) / 1.055, 2.4);
    };
    return 0.2126 * linear(colour.redF()) + 0.7152 * linear(colour.greenF()) + 0.0722 * linear(colour.blueF());
}

double contrast(const QColor& a, const QColor& b) {
    const double first = luminance(a) + 0.05, second = luminance(b) + 0.05;
    return std::max(first, second) / std::min(first, second);
}

namespace {

QColor found(const QColor& colour, const QColor& background, double least) {
    if (contrast(colour, background) >= least) return colour;
    const QColor end = luminance(background) > 0.18 ? QColor(Qt::black) : QColor(Qt::white);
    const auto nearer = [&](double part) {
        return QColor::fromRgbF(static_cast<float>(colour.redF() + part * (end.redF() - colour.redF())),
                                static_cast<float>(colour.greenF() + part * (end.greenF() - colour.greenF())),
                                static_cast<float>(colour.blueF() + part * (end.blueF() - colour.blueF())));
    };
    double low = 0, high = 1;
    for (int i = 0; i < 12; ++i) {
        const double middle = (low + high) / 2;
        (contrast(nearer(middle), background) >= least ? high : low) = middle;
    }
    return nearer(high);
}

}  // namespace

QColor mixed(const QColor& a, const QColor& b, double part) {
    const auto between = [part](int from, int to) { return static_cast<int>(std::lround(from + part * (to - from))); };
    return {between(a.red(), b.red()), between(a.green(), b.green()), between(a.blue(), b.blue())};
}

QColor legible(const QColor& colour, const QColor& background, double least) {
    // Painters ask for the same few pairs in every cell.
    using Key = std::tuple<QRgb, QRgb, int>;
    constexpr std::size_t kMostKept = 500;
    thread_local std::map<Key, QColor> known;
    const Key key{colour.rgba(), background.rgba(), static_cast<int>(least * 100)};
    if (const auto kept = known.find(key); kept != known.end()) return kept->second;
    if (known.size() >= kMostKept) known.clear();
    return known.emplace(key, found(colour, background, least)).first->second;
}

}  // namespace jollyrow
