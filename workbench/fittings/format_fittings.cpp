// SPDX-License-Identifier: MIT
#include "workbench/fittings/format_fittings.h"

#include <QComboBox>
#include <QFontDatabase>
#include <QGridLayout>

#include "core/design/cell_text.h"
#include "workbench/app/look.h"
#include "workbench/controls/controls.h"

namespace jollyrow {
namespace {

struct Offer {
    const char* words;
    FormatStyle style;
    const char* pattern;
};

std::vector<Offer> offersFor(Type type) {
    constexpr auto P = FormatStyle::Pattern;
    const Offer byType{QT_TRANSLATE_NOOP("FormatFittings", "By type"), FormatStyle::Automatic, ""};
    const Offer message{QT_TRANSLATE_NOOP("FormatFittings", "Message over fields"), FormatStyle::Message, nullptr};
    switch (type) {
        case Type::Integer:
        case Type::Decimal:
        case Type::Real:
            return {byType,
                    {QT_TRANSLATE_NOOP("FormatFittings", "Grouped"), P, "#,##0"},
                    {QT_TRANSLATE_NOOP("FormatFittings", "Two decimals"), P, "#,##0.00"},
                    {QT_TRANSLATE_NOOP("FormatFittings", "Accounting"), P, "#,##0.00;(#,##0.00)"},
                    {QT_TRANSLATE_NOOP("FormatFittings", "Currency"), P, "::currency/EUR .00"},
                    {QT_TRANSLATE_NOOP("FormatFittings", "Percent"), P, "0.0%"},
                    {QT_TRANSLATE_NOOP("FormatFittings", "Compact"), P, "::compact-short"},
                    {QT_TRANSLATE_NOOP("FormatFittings", "Scientific"), P, "0.##E0"},
                    {QT_TRANSLATE_NOOP("FormatFittings", "Unit"), P, "::unit/meter .0"},
                    {QT_TRANSLATE_NOOP("FormatFittings", "Duration"), FormatStyle::Duration, "h:mm"},
                    message};
        case Type::Date:
            return {byType,
                    {QT_TRANSLATE_NOOP("FormatFittings", "Weekday and day"), P, "EEE d MMM"},
                    {QT_TRANSLATE_NOOP("FormatFittings", "Day in figures"), P, "dd.MM.y"},
                    {QT_TRANSLATE_NOOP("FormatFittings", "ISO 8601"), P, "y-MM-dd"},
                    {QT_TRANSLATE_NOOP("FormatFittings", "As the locale has it"), P, "::yMMMd"},
                    {QT_TRANSLATE_NOOP("FormatFittings", "Month and year"), P, "LLLL y"},
                    {QT_TRANSLATE_NOOP("FormatFittings", "Days from today"), FormatStyle::RelativeDays, "d MMM y"},
                    message};
        case Type::Time:
            return {byType,
                    {QT_TRANSLATE_NOOP("FormatFittings", "Hours and minutes"), P, "HH:mm"},
                    {QT_TRANSLATE_NOOP("FormatFittings", "With a.m. and p.m."), P, "h:mm a"},
                    message};
        case Type::Timestamp:
        case Type::Instant:
            return {byType,
                    {QT_TRANSLATE_NOOP("FormatFittings", "Day and time"), P, "EEE d MMM HH:mm"},
                    {QT_TRANSLATE_NOOP("FormatFittings", "ISO 8601"), P, "y-MM-dd HH:mm:ss"},
                    {QT_TRANSLATE_NOOP("FormatFittings", "Days from today"), FormatStyle::RelativeDays, "d MMM y"},
                    message};
        case Type::Boolean:
            return {byType, {QT_TRANSLATE_NOOP("FormatFittings", "Two words"), FormatStyle::Words, "yes;no"}, message};
        case Type::Text:
        case Type::Interval:
        case Type::Binary:
        case Type::NumberList: return {byType, message};
    }
    return {byType};
}

}  // namespace

FormatFittings::FormatFittings(QWidget* parent) : QWidget(parent), samples_(new QGridLayout) {
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(0, 0, 0, 0);
    auto* section = new Section(tr("Format"), this);
    layout->addWidget(section);
    styles_ = new PickBox(section);
    styles_->setAccessibleName(tr("Kind of format"));
    section->body()->addWidget(styles_);
    pattern_ = smallEntry(tr("Pattern"), 0, section);
    QFont mono = QFontDatabase::systemFont(QFontDatabase::FixedFont);
    mono.setPixelSize(sized(12).pixelSize());
    pattern_->setFont(mono);
    unit_ = new PickBox(section);
    unit_->addItems({tr("seconds"), tr("minutes"), tr("hours"), tr("days")});
    unit_->setAccessibleName(tr("What one stands for"));
    auto* row = section->row();
    row->addWidget(pattern_, 1);
    row->addWidget(unit_);
    problem_ = new QLabel(section);
    problem_->setWordWrap(true);
    problem_->setTextFormat(Qt::RichText);
    problem_->hide();
    section->body()->addWidget(problem_);
    addSamples(*section);
    addAround(*section);
    connect(styles_, &QComboBox::activated, this, &FormatFittings::chooseStyle);
    connect(pattern_, &QLineEdit::textEdited, this, &FormatFittings::typed);
    connect(unit_, &QComboBox::activated, this, [this](int index) {
        spec_.unit = static_cast<DurationUnit>(index);
        send();
    });
}

void FormatFittings::addSamples(Section& section) {
    samples_->setContentsMargins(0, 0, 0, 0);
    samples_->setHorizontalSpacing(8);
    samples_->setVerticalSpacing(2);
    samples_->setColumnStretch(1, 1);
    section.body()->addLayout(samples_);
    for (int i = 0; i < 5; ++i) {
        auto* kind = quietLabel({}, &section);
        kind->setFont(sized(11));
        auto* text = new QLabel(&section);
        text->setTextFormat(Qt::PlainText);
        text->setFont(sized(12, QFont::Medium));
        samples_->addWidget(kind, i, 0);
        samples_->addWidget(text, i, 1);
        sampleRows_.emplace_back(kind, text);
    }
}

void FormatFittings::addAround(Section& section) {
    auto* around = section.row();
    prefix_ = smallEntry(tr("Words before"), 34, &section);
    suffix_ = smallEntry(tr("Words after"), 34, &section);
    empty_ = smallEntry(tr("Shown where there is no value"), 34, &section);
    around->setSpacing(5);
    around->addWidget(quietLabel(tr("before"), &section));
    around->addWidget(prefix_);
    around->addWidget(quietLabel(tr("after"), &section));
    around->addWidget(suffix_);
    around->addWidget(quietLabel(tr("empty"), &section));
    around->addWidget(empty_);
    around->addStretch();
    for (QLineEdit* entry : {prefix_, suffix_, empty_})
        connect(entry, &QLineEdit::textEdited, this, [this] {
            spec_.prefix = prefix_->text().toStdString();
            spec_.suffix = suffix_->text().toStdString();
            spec_.empty = empty_->text().toStdString();
            send();
        });
}

void FormatFittings::offerStyles(Type type) {
    styles_->clear();
    for (const Offer& offer : offersFor(type)) styles_->addItem(tr(offer.words));
    styles_->addItem(tr("Own pattern"));
}

void FormatFittings::setContent(const FittingsContent& content) {
    filling_ = true;
    content_ = content;
    const ColumnDesign& first = *content.design.column(content.fields.front().toStdString());
    const auto index = content.schema.find(first.field);
    type_ = index ? content.schema.field(*index).type : Type::Text;
    spec_ = first.format;
    bool mixed = false;
    for (const QString& field : content.fields) {
        const ColumnDesign* other = content.design.column(field.toStdString());
        mixed = mixed || (other && !(other->format == spec_));
    }
    offerStyles(type_);
    int chosen = styles_->count() - 1;
    const std::vector<Offer> offers = offersFor(type_);
    for (std::size_t i = 0; i < offers.size(); ++i)
        if (offers[i].style == spec_.style &&
            (!offers[i].pattern || spec_.pattern == offers[i].pattern || spec_.style == FormatStyle::Automatic))
            chosen = static_cast<int>(i);
    styles_->setCurrentIndex(mixed ? -1 : chosen);
    styles_->setPlaceholderText(tr("mixed"));
    // What is being typed stays while it is wrong: the design has the last good one.
    if (!pattern_->hasFocus() || !problem_->isVisible()) {
        fillEntry(pattern_, mixed ? QString() : QString::fromStdString(spec_.pattern));
        problem_->hide();
    }
    pattern_->setPlaceholderText(mixed ? tr("mixed") : tr("by type"));
    unit_->setVisible(spec_.style == FormatStyle::Duration);
    unit_->setCurrentIndex(static_cast<int>(spec_.unit));
    fillEntry(prefix_, QString::fromStdString(spec_.prefix));
    fillEntry(suffix_, QString::fromStdString(spec_.suffix));
    fillEntry(empty_, QString::fromStdString(spec_.empty));
    showSamples();
    filling_ = false;
}

void FormatFittings::chooseStyle(int index) {
    const std::vector<Offer> offers = offersFor(type_);
    if (filling_) return;
    if (index < static_cast<int>(offers.size())) {
        const Offer& offer = offers[static_cast<std::size_t>(index)];
        spec_.style = offer.style;
        spec_.pattern =
            offer.pattern ? offer.pattern : QStringLiteral("{%1}").arg(content_.fields.front()).toStdString();
        problem_->hide();
        pattern_->setText(QString::fromStdString(spec_.pattern));
        send();
    }
    pattern_->setFocus();
}

void FormatFittings::typed(const QString& pattern) {
    FormatSpec next = formatFor(pattern.toStdString(), type_ == Type::Boolean);
    if (next.style == FormatStyle::Pattern &&
        (spec_.style == FormatStyle::Duration || spec_.style == FormatStyle::RelativeDays))
        next.style = spec_.style;
    spec_.style = next.style;
    spec_.pattern = next.pattern;
    send();
}

/// Tries the format on every selected column first; a wrong one goes no further than here.
void FormatFittings::send() {
    for (const QString& field : content_.fields) {
        const auto index = content_.schema.find(field.toStdString());
        if (!index) continue;
        ColumnDesign column;
        column.field = field.toStdString();
        column.format = spec_;
        // Related fields in a message are loaded once the design asks for them.
        const bool waitsForFields = spec_.style == FormatStyle::Message && spec_.pattern.find('.') != std::string::npos;
        const auto made = formatterFor(textFormatOf(content_.design, column, content_.schema.field(*index)),
                                       content_.schema, content_.design);
        if (!made && !waitsForFields) return showProblem(made.error(), spec_.pattern);
    }
    problem_->hide();
    Q_EMIT chosen(spec_);
}

void FormatFittings::showProblem(const Error& error, const std::string& pattern) {
    const TextRange where = error.where.value_or(TextRange{0, pattern.size()});
    const std::size_t at = std::min(where.offset, pattern.size());
    const auto part = [&](std::size_t from, std::size_t length) {
        return QString::fromStdString(pattern.substr(std::min(from, pattern.size()), length))
            .toHtmlEscaped()
            .replace(u' ', QStringLiteral("&nbsp;"));
    };
    const QString bad = part(at, std::max<std::size_t>(1, where.length));
    problem_->setText(QStringLiteral("<span style='font-family:monospace'>%1<span "
                                     "style='color:%2;text-decoration:underline'>%3</span>%4</span><br/>"
                                     "<span style='color:%2'>%5</span>")
                          .arg(part(0, at), look().buoyText.name(), bad.isEmpty() ? QStringLiteral("&nbsp;") : bad,
                               part(at + std::max<std::size_t>(1, where.length), std::string::npos),
                               QString::fromStdString(error.message).toHtmlEscaped()));
    problem_->show();
}

void FormatFittings::showSamples() {
    const auto hide = [this](std::size_t from) {
        for (std::size_t i = from; i < sampleRows_.size(); ++i) {
            sampleRows_[i].first->hide();
            sampleRows_[i].second->hide();
        }
    };
    if (content_.fields.size() != 1 || !content_.snapshot ||
        !content_.schema.find(content_.fields.front().toStdString()))
        return hide(0);
    Design one = content_.design;
    for (ColumnDesign& column : one.columns) {
        column.shown = column.field == content_.fields.front().toStdString();
        column.face.clear();  // the value by itself
    }
    one.column(content_.fields.front().toStdString())->hiddenFromUsers = false;
    for (TierDesign& tier : one.tiers) tier.folded = false;
    const ViewPlan plan = planOf(one, content_.schema);
    if (plan.columns.empty()) return hide(0);
    const std::pair<QString, std::optional<SourceRow>> rows[] = {{tr("this record"), content_.current},
                                                                 {tr("smallest"), content_.extremes.smallest},
                                                                 {tr("largest"), content_.extremes.largest},
                                                                 {tr("longest"), content_.extremes.longest},
                                                                 {tr("empty"), content_.extremes.empty}};
    std::size_t used = 0;
    CellText cell;
    for (const auto& [kind, row] : rows) {
        if (!row || raw(*row) >= content_.snapshot->table->rows) continue;
        readCell(*content_.snapshot, *row, plan.columns.front(), cell);
        const QString text = cell.isPending ? tr("loading…")
                             : cell.isEmpty ? QString::fromStdString(spec_.empty)
                                            : QString::fromStdString(cell.text).simplified();
        auto& [name, label] = sampleRows_[used++];
        name->setText(kind);
        label->setText(QFontMetrics(label->font()).elidedText(text, Qt::ElideRight, 148));
        label->setToolTip(text.left(400));
        name->show();
        label->show();
    }
    hide(used);
}

}  // namespace jollyrow
