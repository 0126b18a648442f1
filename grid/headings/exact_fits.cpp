// SPDX-License-Identifier: MIT
#include "grid/headings/exact_fits.h"

#include <QElapsedTimer>

namespace jollyrow {
namespace {
constexpr qint64 kTurnMs = 5;  // half a frame, with what the last column takes
}  // namespace

ExactFits::ExactFits(GridContext& context, ColumnFits& fits, std::function<FitInput()> input)
    : context_(context), fits_(fits), input_(std::move(input)) {
    timer_.setInterval(0);
    QObject::connect(&timer_, &QTimer::timeout, &context_.grid(), [this] { turn(); });
}

void ExactFits::begin(const std::vector<std::string>& fields) {
    rest_.insert(rest_.end(), fields.begin(), fields.end());
    timer_.start();
}

void ExactFits::beginAll() {
    std::vector<std::string> fields;
    for (const PlannedColumn& column : context_.plan().columns) fields.push_back(column.design.field);
    begin(fields);
}

void ExactFits::turn() {
    QElapsedTimer since;
    since.start();
    while (!rest_.empty()) {
        const std::string field = rest_.back();
        rest_.pop_back();
        if (const auto column = context_.columnOf(QString::fromStdString(field)))
            widths_[field] = fits_.exact(input_(), *column);
        if (since.elapsed() >= kTurnMs) return;
    }
    timer_.stop();
    finish();
}

void ExactFits::finish() {
    const std::map<std::string, int> widths = std::exchange(widths_, {});
    Design design = context_.design();
    for (const auto& [field, width] : widths) {
        const auto column = context_.columnOf(QString::fromStdString(field));
        if (!column) continue;
        fits_.keep(input_(), *column, width);
        design.column(field)->width.mode = WidthMode::Fit;
    }
    if (design == context_.design()) return context_.relayout();
    context_.changeDesign(std::move(design), widths.size() == 1 ? Grid::tr("Fit %1").arg(headingOfField(
                                                                      context_.design(), widths.begin()->first))
                                                                : Grid::tr("Fit columns"));
}

}  // namespace jollyrow
