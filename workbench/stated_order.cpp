// SPDX-License-Identifier: MIT
#include "workbench/stated_order.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QMenu>
#include <QPointer>
#include <QPushButton>
#include <QToolButton>
#include <QVBoxLayout>

#include <algorithm>

#include "core/rules/conversion.h"
#include "core/session/session.h"
#include "workbench/fitting_section.h"
#include "workbench/look.h"

namespace jollyrow {
namespace {
constexpr std::size_t kMost = 40;
constexpr int kRoom = 640;  // pixels a line of chips takes
}  // namespace

StatedOrder::StatedOrder(const std::vector<std::string>& values, QWidget* parent, const Changed& changed)
    : QWidget(parent) {
    auto* lines = new QVBoxLayout(this);
    lines->setContentsMargins(24, 0, 0, 0);
    lines->setSpacing(4);
    QHBoxLayout* line = nullptr;
    int used = 0;
    const auto change = [values, changed](auto act) {
        auto next = values;
        act(next);
        changed(std::move(next));
    };
    for (std::size_t i = 0; i < values.size(); ++i) {
        const auto at = static_cast<std::ptrdiff_t>(i);
        auto* chip = new QToolButton(this);
        chip->setText(QString::fromStdString(values[i]));
        chip->setPopupMode(QToolButton::InstantPopup);
        chip->setToolTip(tr("Move it or leave it to the end"));
        chip->setCursor(Qt::PointingHandCursor);
        chip->setStyleSheet(
            QStringLiteral("QToolButton{border:1px solid %1;border-radius:4px;background:%2;color:%3;padding:3px "
                           "8px}QToolButton:hover,QToolButton:focus{border-color:%4}QToolButton::menu-indicator{image:"
                           "none;width:0}")
                .arg(look().hair.name(), look().panel.name(), look().ink.name(), look().teal.name()));
        auto* menu = new QMenu(chip);
        if (i > 0) {
            menu->addAction(tr("Earlier"), this, [change, i] { change([i](auto& v) { std::swap(v[i], v[i - 1]); }); });
            menu->addAction(tr("First"), this, [change, at] {
                change([at](auto& v) { std::rotate(v.begin(), v.begin() + at, v.begin() + at + 1); });
            });
        }
        if (i + 1 < values.size())
            menu->addAction(tr("Later"), this, [change, i] { change([i](auto& v) { std::swap(v[i], v[i + 1]); }); });
        menu->addAction(tr("Leave it to the end"), this,
                        [change, at] { change([at](auto& v) { v.erase(v.begin() + at); }); });
        chip->setMenu(menu);
        const int wide = chip->sizeHint().width() + 22;
        if (!line || used + wide > kRoom) {
            line = new QHBoxLayout;
            line->setSpacing(5);
            lines->addLayout(line);
            used = 0;
        }
        line->addWidget(chip);
        used += wide;
        if (i + 1 < values.size()) line->addWidget(quietLabel(QStringLiteral("›"), this));
    }
    if (line) line->addStretch();
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
    session.pickList(*index, std::nullopt,
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
