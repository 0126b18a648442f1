// SPDX-License-Identifier: MIT
#include "workbench/fittings/tier_fittings.h"

#include <QColor>

#include "grid/headings/heading_landing.h"
#include "workbench/app/look.h"
#include "workbench/controls/controls.h"
#include "workbench/controls/segmented_switch.h"

namespace jollyrow {
namespace {
constexpr Alignment kAlignments[] = {Alignment::Left, Alignment::Center, Alignment::Right};
}

TierFittings::TierFittings(QWidget* parent) : QWidget(parent) {
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(0, 0, 0, 0);
    layout->setSpacing(0);
    for (Section* section : {makeHeading(), makeLook(), makeFold()}) layout->addWidget(section);
    auto* tip = new Section(tr("Tooltip"), this);
    toolTip_ = smallEntry(tr("Tooltip"), 0, tip);
    tip->body()->addWidget(toolTip_);
    layout->addWidget(tip);
    layout->addStretch();
    connectEntries();
    connectLook();
}

Section* TierFittings::makeHeading() {
    auto* heading = new Section(tr("Heading"), this);
    heading_ = smallEntry(tr("Heading of the tier"), 0, heading);
    parent_ = new PickBox(heading);
    parent_->setAccessibleName(tr("Under"));
    heading->body()->addWidget(heading_);
    auto* under = heading->row();
    under->addWidget(quietLabel(tr("under"), heading));
    under->addWidget(parent_, 1);
    return heading;
}

Section* TierFittings::makeLook() {
    auto* look = new Section(tr("Drawn as"), this);
    look_ = new SegmentedSwitch({tr("Bracket"), tr("Band"), tr("Plain")}, look);
    alignment_ = new SegmentedSwitch({tr("Left"), tr("Middle"), tr("Right")}, look);
    look->body()->addWidget(look_);
    look->body()->addWidget(alignment_);
    auto* colour = look->row();
    colour_ = smallEntry(tr("Colour of the words"), 84, look);
    colour_->setPlaceholderText(tr("#1e7f78"));
    colourNote_ = quietLabel({}, look);
    colour->addWidget(quietLabel(tr("words"), look));
    colour->addWidget(colour_);
    colour->addWidget(colourNote_, 1);
    return look;
}

Section* TierFittings::makeFold() {
    auto* fold = new Section(tr("Fold"), this);
    folded_ = new CheckBox(tr("Folded to one column"), fold);
    lead_ = new PickBox(fold);
    lead_->setAccessibleName(tr("Column that stays"));
    fold->body()->addWidget(folded_);
    auto* lead = fold->row();
    lead->addWidget(quietLabel(tr("which is"), fold));
    lead->addWidget(lead_, 1);
    return fold;
}

void TierFittings::connectEntries() {
    connect(heading_, &QLineEdit::textEdited, this, [this](const QString& text) {
        change(
            tr("Rename %1"), [&](Design& d) { d.findTier(name_)->heading = text.toStdString(); },
            Joining::WithLastOfSameName);
    });
    connect(parent_, &QComboBox::activated, this, [this](int index) {
        const std::string to = parent_->itemData(index).toString().toStdString();
        change(to.empty() ? tr("Move %1 to the top")
                          : tr("Move %1 under %2").arg(QStringLiteral("%1"), headingOfTier(design_, to)),
               [&](Design& d) {
                   moveTier(d, name_, {to, {}});
               });
    });
    connect(toolTip_, &QLineEdit::textEdited, this, [this](const QString& text) {
        change(
            tr("Tooltip of %1"), [&](TierDesign& t) { t.toolTip = text.toStdString(); }, Joining::WithLastOfSameName);
    });
}

void TierFittings::connectLook() {
    connect(look_, &SegmentedSwitch::chosen, this, [this](int index) {
        change(tr("Look of %1"), [index](TierDesign& t) { t.look = static_cast<TierLook>(index); });
    });
    connect(alignment_, &SegmentedSwitch::chosen, this, [this](int index) {
        change(tr("Align %1"), [index](TierDesign& t) { t.alignment = kAlignments[index]; });
    });
    connect(colour_, &QLineEdit::textEdited, this, [this](const QString& text) {
        const bool good = text.isEmpty() || (text.size() == 7 && QColor::isValidColor(text));
        colourNote_->setText(good ? QString() : tr("like #1e7f78"));
        if (good)
            change(
                tr("Colour of %1"), [&](TierDesign& t) { t.colour = text.toStdString(); }, Joining::WithLastOfSameName);
    });
    connect(folded_, &QCheckBox::clicked, this,
            [this](bool on) { change(on ? tr("Fold %1") : tr("Unfold %1"), [on](TierDesign& t) { t.folded = on; }); });
    connect(lead_, &QComboBox::activated, this, [this](int index) {
        const std::string field = lead_->itemData(index).toString().toStdString();
        change(tr("Lead column of %1"), [&](TierDesign& t) { t.lead = field; });
    });
}

template <class Change>
void TierFittings::change(const QString& label, const Change& change, Joining joining) {
    if (filling_ || !design_.findTier(name_)) return;
    Design next = design_;
    if constexpr (std::is_invocable_v<Change, TierDesign&>)
        change(*next.findTier(name_));
    else
        change(next);
    // The name stays while the heading is typed, so that all keystrokes are one step.
    const QString what =
        joining == Joining::WithLastOfSameName ? QString::fromStdString(name_) : headingOfTier(design_, name_);
    Q_EMIT changed(next, label.arg(what), joining);
}

void TierFittings::setContent(const FittingsContent& content) {
    filling_ = true;
    design_ = content.design;
    name_ = content.tier->toStdString();
    const TierDesign& tier = *design_.findTier(name_);
    fillEntry(heading_, QString::fromStdString(tier.heading));
    parent_->clear();
    parent_->addItem(tr("nothing"), QString());
    for (const TierDesign& other : design_.tiers) {
        const auto path = tierPath(design_, other.name);
        if (std::find(path.begin(), path.end(), name_) != path.end()) continue;
        parent_->addItem(QString::fromStdString(other.heading), QString::fromStdString(other.name));
    }
    parent_->setCurrentIndex(std::max(0, parent_->findData(QString::fromStdString(tier.parent))));
    look_->setCurrent(static_cast<int>(tier.look));
    for (int i = 0; i < 3; ++i)
        if (kAlignments[i] == tier.alignment) alignment_->setCurrent(i);
    fillEntry(colour_, QString::fromStdString(tier.colour));
    folded_->setChecked(tier.folded);
    lead_->clear();
    lead_->addItem(tr("the first shown"), QString());
    for (const std::string& field : fieldsUnder(design_, name_))
        lead_->addItem(headingOfField(design_, field), QString::fromStdString(field));
    lead_->setCurrentIndex(std::max(0, lead_->findData(QString::fromStdString(tier.lead))));
    fillEntry(toolTip_, QString::fromStdString(tier.toolTip));
    filling_ = false;
}

}  // namespace jollyrow
