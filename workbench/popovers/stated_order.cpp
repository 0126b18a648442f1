// SPDX-License-Identifier: MIT
#include "workbench/popovers/stated_order.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QPointer>
#include <QPushButton>
#include <QVBoxLayout>

#include <algorithm>

#include "core/rules/conversion.h"
#include "core/session/session.h"
#include "workbench/controls/order_chips.h"
#include "workbench/fittings/fitting_section.h"

namespace jollyrow {
namespace {
constexpr std::size_t kMost = 40;
}  // namespace

StatedOrder::StatedOrder(const std::vector<std::string>& values, QWidget* parent, const Changed& changed)
    : QWidget(parent) {
    auto* lines = new QVBoxLayout(this);
    lines->setContentsMargins(24, 0, 0, 0);
    lines->setSpacing(4);
    QStringList names;
    for (const std::string& value : values) names << QString::fromStdString(value);
    auto* chips = new OrderChips(
        names, -1, {tr("Drag it to its place, or move it with Alt and the arrows"), tr("Leave it to the end")}, this);
    connect(chips, &OrderChips::moved, this, [values, changed](int from, int to) {
        auto next = values;
        movePlace(next, from, to);
        changed(std::move(next));
    });
    connect(chips, &OrderChips::takenOut, this, [values, changed](int index) {
        auto next = values;
        next.erase(next.begin() + index);
        changed(std::move(next));
    });
    lines->addWidget(chips);
    auto* rest = new QHBoxLayout;
    rest->addWidget(quietLabel(tr("this order, anything else last"), this));
    rest->addStretch();
    auto* back = new QPushButton(tr("By the alphabet again"), this);
    back->setFlat(true);
    connect(back, &QPushButton::clicked, this, [changed] { changed({}); });
    rest->addWidget(back);
    lines->addLayout(rest);
}

void StatedOrder::begin(Session& session, const std::string& field, QObject* owner, Changed done) {
    const auto index = session.schema().find(field);
    if (!index) return;
    session.questions().pickList(*index, std::nullopt,
                     [target = QPointer<QObject>(owner),
                      done = std::move(done)](const Result<std::shared_ptr<const PickList>>& list) {
                         if (!target || !list) return;
                         std::vector<std::string> values;
                         for (const PickEntry& entry : (*list)->entries) {
                             if (values.size() == kMost) break;
                             values.push_back(jollyrow::textOf(ruleValue(entry.value)));
                         }
                         done(std::move(values));
                     });
}

}  // namespace jollyrow
