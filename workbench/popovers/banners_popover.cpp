// SPDX-License-Identifier: MIT
#include "workbench/popovers/banners_popover.h"

#include <QHBoxLayout>
#include <QLineEdit>
#include <QPushButton>
#include <QToolButton>
#include <QVBoxLayout>

#include "core/design/condition.h"
#include "core/design/plan.h"
#include "core/session/session.h"
#include "grid/api/grid.h"
#include "workbench/app/look.h"
#include "workbench/controls/controls.h"
#include "workbench/controls/ink_box.h"
#include "workbench/controls/segmented_switch.h"
#include "workbench/fittings/fitting_section.h"
#include "workbench/rules/rule_entry.h"
#include "workbench/rules/rule_names.h"

namespace jollyrow {
namespace {

Result<std::shared_ptr<const Program>> bannerCondition(const std::string& rule, const Session& session,
                                                       const Design& design) {
    BindOptions options;
    options.expected = RuleKind::Boolean;
    return compileRule(rule.empty() ? "FALSE" : rule, session.schemaReading(rule),
                       vocabularyOf(design, session.registered()), options);
}

}  // namespace

BannersPopover::BannersPopover(QWidget* window, const Design& design, Grid& grid)
    : NamedPopover(tr("Banner rows"),
                   tr("Records for which a condition holds are drawn as one heading across all columns. One that heads "
                      "the records behind it keeps them: they are sorted beneath it, and it stays where the filter "
                      "leaves one of them."),
                   window, design, grid.session()),
      grid_(grid) {
    rebuild();
}

std::size_t BannersPopover::count(const Design& design) const {
    std::size_t shape = design.banners.size();
    const auto add = [&shape](const auto& of) { shape = shape * 31 + std::hash<std::decay_t<decltype(of)>>()(of); };
    for (const BannerDesign& banner : design.banners) {
        for (const std::string* ink : {&banner.ink, &banner.background}) add(*ink);
        add(banner.heads);
        add(static_cast<int>(banner.weight));
        add(static_cast<int>(banner.alignment));
    }
    return shape;
}

void BannersPopover::fill(QVBoxLayout& list) {
    for (std::size_t i = 0; i < design_.banners.size(); ++i) addCard(list, i);
    auto* more = new QPushButton(tr("+ Banner"), cards());
    more->setObjectName(QStringLiteral("addBanner"));
    more->setEnabled(design_.banners.size() < BannerDesign::kMost);
    connect(more, &QPushButton::clicked, this, [this] {
        Design next = design_;
        BannerDesign banner;
        banner.where = "FALSE";
        next.banners.push_back(std::move(banner));
        takeLater(next, tr("Add a banner"));
    });
    auto* row = new QHBoxLayout;
    row->addWidget(more);
    row->addStretch();
    list.addLayout(row);
}

void BannersPopover::change(std::size_t index, const std::function<void(BannerDesign&)>& act, const QString& label,
                            bool anew) {
    Design next = design_;
    if (index >= next.banners.size()) return;
    act(next.banners[index]);
    anew ? takeLater(next, label) : take(next, label);
}

void BannersPopover::addCard(QVBoxLayout& list, std::size_t index) {
    auto* card = new Card(cards());
    auto* column = new QVBoxLayout(card);
    column->setContentsMargins(12, 8, 8, 8);
    column->setSpacing(6);
    addCondition(*column, index);
    addCaption(*column, index);
    for (const auto add : {&BannersPopover::addLook, &BannersPopover::addHeads}) {
        auto* row = new QHBoxLayout;
        row->setSpacing(8);
        (this->*add)(*row, index);
        column->addLayout(row);
    }
    list.addWidget(card);
}

void BannersPopover::addCondition(QVBoxLayout& card, std::size_t index) {
    auto* head = new QHBoxLayout;
    head->addWidget(quietLabel(tr("Records where"), cards()));
    head->addStretch();
    auto* away = cardButton(Icon::Cross, tr("Take banner %1 away").arg(index + 1), true, cards());
    connect(away, &QToolButton::clicked, this, [this, index] {
        Design next = design_;
        next.banners.erase(next.banners.begin() + static_cast<std::ptrdiff_t>(index));
        takeLater(next, tr("Take a banner away"));
    });
    head->addWidget(away);
    card.addLayout(head);
    auto* entry = new RuleEntry(
        ruleNames(session_, design_),
        [this](const std::string& text) { return bannerCondition(text, session_, design_); }, cards());
    entry->edit().setAccessibleName(tr("Where banner %1 holds").arg(index + 1));
    entry->setText(QString::fromStdString(design_.banners[index].where));
    entry->setNote(recordsMet(index));
    connect(entry, &RuleEntry::changed, this, [this, index, entry](const QString& text) {
        const std::string rule = text.trimmed().toStdString();
        change(
            index, [rule](BannerDesign& b) { b.where = rule.empty() ? "FALSE" : rule; }, tr("Where a banner holds"));
        entry->setNote(recordsMet(index));
    });
    card.addWidget(entry);
}

/// How many of some records spread over those shown; of all where they are few.
QString BannersPopover::recordsMet(std::size_t index) const {
    constexpr std::int64_t kLookedAt = 5000;  // some milliseconds
    const auto& snapshot = grid_.snapshot();
    if (!snapshot || snapshot->recordCount() == 0 || index >= design_.banners.size()) return {};
    const auto program = bannerCondition(design_.banners[index].where, session_, design_);
    const auto condition = program ? RecordCondition::make(*program, *snapshot) : nullptr;
    if (!condition) return {};
    const std::int64_t step = std::max<std::int64_t>(1, snapshot->recordCount() / kLookedAt);
    qint64 met = 0, seen = 0;
    for (std::int64_t place = 0; place < snapshot->recordCount(); place += step, ++seen)
        met += condition->holds(snapshot->record(place)) ? 1 : 0;
    return step == 1 ? tr("%1 of %2 records").arg(grouped(met), grouped(seen))
                     : tr("%1 of %2 looked at").arg(grouped(met), grouped(seen));
}

void BannersPopover::addCaption(QVBoxLayout& card, std::size_t index) {
    auto* row = new QHBoxLayout;
    row->setSpacing(8);
    row->addWidget(quietLabel(tr("says"), cards()));
    auto* caption = smallEntry(tr("What banner %1 says").arg(index + 1), 0, cards());
    caption->setText(QString::fromStdString(design_.banners[index].caption));
    caption->setPlaceholderText(tr("its first text; or a message such as {work}, due {due_on}"));
    auto* problem = problemLabel(cards());
    const auto check = [this, problem](const QString& text) {
        TextFormat format;
        format.spec.style = FormatStyle::Message;
        format.spec.pattern = text.toStdString();
        const auto made = formatterFor(format, session_.schemaReading(text.toStdString()), design_);
        problem->setVisible(!text.isEmpty() && !made);
        problem->setText(made ? QString() : QString::fromStdString(made.error().message));
    };
    check(caption->text());
    connect(caption, &QLineEdit::textEdited, this, [this, index, check](const QString& text) {
        change(
            index, [text = text.toStdString()](BannerDesign& b) { b.caption = text; }, tr("What a banner says"));
        check(text);
    });
    row->addWidget(caption, 1);
    card.addLayout(row);
    card.addWidget(problem);
}

void BannersPopover::addLook(QHBoxLayout& row, std::size_t index) {
    const BannerDesign& banner = design_.banners[index];
    const auto ink = [&](const QString& words, std::string BannerDesign::*of, bool isBehind, const QString& label) {
        row.addWidget(quietLabel(words, cards()));
        row.addWidget(inkBox(
            banner.*of, isBehind,
            [this, index, of, label](const std::string& colour) {
                change(
                    index, [of, colour](BannerDesign& b) { b.*of = colour; }, label, true);
            },
            cards()));
    };
    ink(tr("text"), &BannerDesign::ink, false, tr("Text colour of a banner"));
    ink(tr("behind"), &BannerDesign::background, true, tr("Background of a banner"));
    auto* weight = new PickBox(cards());
    weight->setAccessibleName(tr("Weight of banner %1").arg(index + 1));
    for (const QString& words : {tr("bold"), tr("regular"), tr("medium")}) weight->addItem(words);
    weight->setCurrentIndex(banner.weight == LineWeight::Bold ? 0 : static_cast<int>(banner.weight));
    connect(weight, &QComboBox::activated, this, [this, index](int chosen) {
        change(
            index, [chosen](BannerDesign& b) { b.weight = static_cast<LineWeight>(chosen); }, tr("Weight of a banner"));
    });
    row.addWidget(weight);
    row.addStretch(1);
}

void BannersPopover::addHeads(QHBoxLayout& row, std::size_t index) {
    const BannerDesign& banner = design_.banners[index];
    auto* heads = new CheckBox(tr("heads the records behind it"), cards());
    heads->setToolTip(tr("Up to the next banner that does, as the records stand unsorted"));
    heads->setChecked(banner.heads);
    connect(heads, &QCheckBox::clicked, this, [this, index](bool on) {
        change(
            index, [on](BannerDesign& b) { b.heads = on; }, on ? tr("Head the records behind") : tr("Head no records"));
    });
    row.addWidget(heads);
    row.addStretch(1);
    auto* align = new SegmentedSwitch({tr("Left"), tr("Middle"), tr("Right")}, cards());
    align->setCurrent(banner.alignment == Alignment::Right ? 2 : banner.alignment == Alignment::Center ? 1 : 0);
    connect(align, &SegmentedSwitch::chosen, this, [this, index](int chosen) {
        const Alignment alignment = chosen == 0 ? Alignment::Left : chosen == 1 ? Alignment::Center : Alignment::Right;
        change(
            index, [alignment](BannerDesign& b) { b.alignment = alignment; }, tr("Alignment of a banner"));
    });
    row.addWidget(align);
}

}  // namespace jollyrow
