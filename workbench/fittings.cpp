// SPDX-License-Identifier: MIT
#include "workbench/fittings.h"

#include <QCheckBox>
#include <QDoubleSpinBox>
#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QPainter>
#include <QSpinBox>
#include <QStackedWidget>
#include <QVBoxLayout>

#include "workbench/controls.h"
#include "workbench/look.h"
#include "workbench/segmented_switch.h"

namespace jollyrow {
namespace {

constexpr Alignment kAlignments[] = {Alignment::Automatic, Alignment::Left, Alignment::Center, Alignment::Right};

/// A titled group with a hairline above it.
class Section final : public QWidget {
  public:
    Section(const QString& title, QWidget* parent) : QWidget(parent), body_(new QVBoxLayout(this)) {
        body_->setContentsMargins(14, 10, 14, 11);
        body_->setSpacing(7);
        auto* label = new QLabel(title, this);
        label->setFont(sized(11, QFont::Medium));
        label->setForegroundRole(QPalette::PlaceholderText);
        body_->addWidget(label);
    }
    QHBoxLayout* row() {
        auto* row = new QHBoxLayout;
        row->setSpacing(7);
        body_->addLayout(row);
        return row;
    }
    QVBoxLayout* body() { return body_; }

  protected:
    void paintEvent(QPaintEvent*) override {
        QPainter painter(this);
        painter.fillRect(0, 0, width(), 1, look().hair);
    }

  private:
    QVBoxLayout* body_;
};

QLabel* quiet(const QString& text, QWidget* parent) {
    auto* label = new QLabel(text, parent);
    label->setForegroundRole(QPalette::PlaceholderText);
    return label;
}

QSpinBox* pixelsBox(int least, int most, QWidget* parent) {
    auto* box = new QSpinBox(parent);
    box->setRange(least, most);
    box->setSuffix(QObject::tr(" px"));
    box->setFixedWidth(78);
    box->setAlignment(Qt::AlignRight);
    box->setKeyboardTracking(false);
    return box;
}

}  // namespace

Fittings::Fittings(QWidget* parent)
    : QWidget(parent), title_(new QLabel(this)), subtitle_(new QLabel(this)), pages_(new QStackedWidget(this)) {
    setAccessibleName(tr("Fittings"));
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(0, 0, 0, 0);
    layout->setSpacing(0);
    auto* head = new QWidget(this);
    auto* headLayout = new QVBoxLayout(head);
    headLayout->setContentsMargins(14, 9, 14, 9);
    headLayout->setSpacing(1);
    title_->setFont(sized(14, QFont::DemiBold));
    subtitle_->setForegroundRole(QPalette::PlaceholderText);
    subtitle_->setFont(sized(11));
    headLayout->addWidget(title_);
    headLayout->addWidget(subtitle_);
    layout->addWidget(head);
    layout->addWidget(pages_, 1);
    pages_->addWidget(makeColumnPage());
    pages_->addWidget(makeGridPage());
}

template <class Change>
void Fittings::changeColumn(const QString& label, Change&& change, Joining joining) {
    if (filling_ || !field_) return;
    Design next = design_;
    ColumnDesign* column = next.column(field_->toStdString());
    if (!column) return;
    const QString heading = QString::fromStdString(column->heading);
    change(*column);
    Q_EMIT changed(next, label.arg(heading), joining);
}

template <class Change>
void Fittings::changeGrid(const QString& label, Change&& change) {
    if (filling_) return;
    Design next = design_;
    change(next);
    Q_EMIT changed(next, label, Joining::WithLastOfSameName);
}

QWidget* Fittings::makeColumnPage() {
    auto* page = new QWidget(this);
    auto* layout = new QVBoxLayout(page);
    layout->setContentsMargins(0, 0, 0, 0);
    layout->setSpacing(0);

    auto* heading = new Section(tr("Heading"), page);
    heading_ = new QLineEdit(heading);
    heading_->setAccessibleName(tr("Heading"));
    heading->body()->addWidget(heading_);
    auto* looks = heading->row();
    sampleLabel_ = new QLabel(heading);
    sampleLabel_->setFont(sized(12, QFont::Medium));
    sampleLabel_->setTextFormat(Qt::PlainText);
    looks->addWidget(quiet(tr("shows"), heading));
    looks->addWidget(sampleLabel_, 1);
    layout->addWidget(heading);
    // One step a typed heading: the label names the field, so that all keystrokes join.
    connect(heading_, &QLineEdit::textEdited, this, [this](const QString& text) {
        if (filling_ || !field_) return;
        Design next = design_;
        next.column(field_->toStdString())->heading = text.toStdString();
        Q_EMIT changed(next, tr("Rename %1").arg(*field_), Joining::WithLastOfSameName);
    });

    auto* shown = new Section(tr("In the form"), page);
    shown_ = new CheckBox(tr("Shown"), shown);
    readOnly_ = new CheckBox(tr("Read-only"), shown);
    auto* checks = shown->row();
    checks->addWidget(shown_);
    checks->addSpacing(12);
    checks->addWidget(readOnly_);
    checks->addStretch();
    layout->addWidget(shown);
    connect(shown_, &QCheckBox::clicked, this, [this](bool on) {
        changeColumn(on ? tr("Show %1") : tr("Hide %1"), [on](ColumnDesign& c) { c.shown = on; });
    });
    connect(readOnly_, &QCheckBox::clicked, this, [this](bool on) {
        changeColumn(on ? tr("Lock %1") : tr("Unlock %1"), [on](ColumnDesign& c) { c.readOnly = on; });
    });

    auto* align = new Section(tr("Alignment"), page);
    alignment_ = new SegmentedSwitch({tr("By type"), tr("Left"), tr("Middle"), tr("Right")}, align);
    align->body()->addWidget(alignment_);
    layout->addWidget(align);
    connect(alignment_, &SegmentedSwitch::chosen, this, [this](int index) {
        changeColumn(tr("Align %1"), [index](ColumnDesign& c) { c.alignment = kAlignments[index]; });
    });

    auto* width = new Section(tr("Width"), page);
    widthMode_ = new SegmentedSwitch({tr("Fixed"), tr("Fit"), tr("Share")}, width);
    width->body()->addWidget(widthMode_);
    auto* size = width->row();
    pixels_ = pixelsBox(Width::kLeastPixels, Width::kMostPixels, width);
    pixels_->setAccessibleName(tr("Width in pixels"));
    weight_ = new QDoubleSpinBox(width);
    weight_->setRange(0.01, 1000);
    weight_->setDecimals(2);
    weight_->setSingleStep(0.5);
    weight_->setFixedWidth(70);
    weight_->setKeyboardTracking(false);
    weight_->setAccessibleName(tr("Weight"));
    fitNote_ = quiet({}, width);
    size->addWidget(pixels_);
    size->addWidget(weight_);
    size->addWidget(fitNote_, 1);
    auto* bounds = width->row();
    minimum_ = pixelsBox(Width::kLeastPixels, Width::kMostPixels, width);
    maximum_ = pixelsBox(0, Width::kMostPixels, width);
    maximum_->setSpecialValueText(tr("none"));
    minimum_->setAccessibleName(tr("Least width"));
    maximum_->setAccessibleName(tr("Most width"));
    bounds->addWidget(quiet(tr("from"), width));
    bounds->addWidget(minimum_);
    bounds->addWidget(quiet(tr("to"), width));
    bounds->addWidget(maximum_);
    bounds->addStretch();
    layout->addWidget(width);
    connect(widthMode_, &SegmentedSwitch::chosen, this, [this](int index) {
        changeColumn(tr("Width of %1"), [this, index](ColumnDesign& c) {
            c.width.mode = static_cast<WidthMode>(index);
            if (c.width.mode == WidthMode::Fixed && widthPx_ >= Width::kLeastPixels)
                c.width.pixels = widthPx_;  // stays as wide as it is
        });
    });
    const auto spin = [this](QSpinBox* box, int Width::*member) {
        connect(box, &QSpinBox::valueChanged, this, [this, member](int value) {
            changeColumn(
                tr("Width of %1"), [member, value](ColumnDesign& c) { c.width.*member = value; },
                Joining::WithLastOfSameName);
        });
    };
    spin(pixels_, &Width::pixels);
    spin(minimum_, &Width::minimum);
    spin(maximum_, &Width::maximum);
    connect(weight_, &QDoubleSpinBox::valueChanged, this, [this](double value) {
        changeColumn(
            tr("Width of %1"), [value](ColumnDesign& c) { c.width.weight = value; }, Joining::WithLastOfSameName);
    });

    auto* facts = new Section(tr("In the database"), page);
    facts_ = new QLabel(facts);
    facts_->setWordWrap(true);
    facts_->setTextFormat(Qt::PlainText);
    facts->body()->addWidget(facts_);
    layout->addWidget(facts);
    layout->addStretch();
    return page;
}

QWidget* Fittings::makeGridPage() {
    auto* page = new QWidget(this);
    auto* layout = new QVBoxLayout(page);
    layout->setContentsMargins(0, 0, 0, 0);
    layout->setSpacing(0);
    auto* title = new Section(tr("Title of the design"), page);
    designTitle_ = new QLineEdit(title);
    title->body()->addWidget(designTitle_);
    layout->addWidget(title);
    connect(designTitle_, &QLineEdit::textEdited, this, [this](const QString& text) {
        changeGrid(tr("Rename the design"), [&](Design& d) { d.title = text.toStdString(); });
    });

    auto* rows = new Section(tr("Rows"), page);
    auto* heights = rows->row();
    rowHeight_ = pixelsBox(16, 400, rows);
    heights->addWidget(quiet(tr("at least"), rows));
    heights->addWidget(rowHeight_);
    heights->addWidget(quiet(tr("high"), rows), 1);
    stripes_ = new CheckBox(tr("Stripes"), rows);
    lines_ = new CheckBox(tr("Hairlines"), rows);
    auto* checks = rows->row();
    checks->addWidget(stripes_);
    checks->addSpacing(12);
    checks->addWidget(lines_);
    checks->addStretch();
    layout->addWidget(rows);
    connect(rowHeight_, &QSpinBox::valueChanged, this,
            [this](int value) { changeGrid(tr("Row height"), [value](Design& d) { d.grid.rowHeight = value; }); });
    connect(stripes_, &QCheckBox::clicked, this,
            [this](bool on) { changeGrid(tr("Stripes"), [on](Design& d) { d.grid.stripes = on; }); });
    connect(lines_, &QCheckBox::clicked, this,
            [this](bool on) { changeGrid(tr("Hairlines"), [on](Design& d) { d.grid.lines = on; }); });

    auto* pins = new Section(tr("Pinned at the left"), page);
    auto* count = pins->row();
    pinned_ = new QSpinBox(pins);
    pinned_->setRange(0, 20);
    pinned_->setFixedWidth(56);
    count->addWidget(pinned_);
    count->addWidget(quiet(tr("columns stay in sight"), pins), 1);
    layout->addWidget(pins);
    connect(pinned_, &QSpinBox::valueChanged, this,
            [this](int value) { changeGrid(tr("Pin columns"), [value](Design& d) { d.grid.pinned = value; }); });

    auto* hint = new Section(tr("One column"), page);
    auto* text = quiet(tr("Click a heading or a line of the outline to see the settings of that column."), hint);
    text->setWordWrap(true);
    hint->body()->addWidget(text);
    layout->addWidget(hint);
    layout->addStretch();
    return page;
}

void Fittings::setContent(const Design& design, const TableSchema& schema, const std::optional<QString>& field,
                          int widthPx, const QString& sample) {
    design_ = design;
    schema_ = schema;
    field_ = field;
    widthPx_ = widthPx;
    sample_ = sample;
    if (field_ && !design_.column(field_->toStdString())) field_.reset();
    filling_ = true;
    pages_->setCurrentIndex(field_ ? 0 : 1);
    field_ ? fillColumn() : fillGrid();
    filling_ = false;
}

void Fittings::fillColumn() {
    const ColumnDesign& column = *design_.column(field_->toStdString());
    const auto index = schema_.find(column.field);
    title_->setText(QString::fromStdString(column.heading));
    const QString kind = index ? QString::fromUtf8(article(schema_.field(*index).type).data(),
                                                   static_cast<qsizetype>(article(schema_.field(*index).type).size()))
                               : tr("not in the table");
    subtitle_->setText(QStringLiteral("%1.%2, %3").arg(QString::fromStdString(schema_.name), *field_, kind));
    if (heading_->text() != QString::fromStdString(column.heading))
        heading_->setText(QString::fromStdString(column.heading));
    sampleLabel_->setText(
        fontMetrics().elidedText(sample_.isEmpty() ? tr("nothing yet") : sample_, Qt::ElideRight, 170));
    shown_->setChecked(column.shown);
    readOnly_->setChecked(column.readOnly);
    for (int i = 0; i < 4; ++i)
        if (kAlignments[i] == column.alignment) alignment_->setCurrent(i);
    widthMode_->setCurrent(static_cast<int>(column.width.mode));
    const bool fixed = column.width.mode == WidthMode::Fixed, share = column.width.mode == WidthMode::Share;
    pixels_->setVisible(fixed);
    weight_->setVisible(share);
    pixels_->setValue(column.width.pixels);
    weight_->setValue(column.width.weight);
    fitNote_->setText(fixed   ? QString()
                      : share ? tr("parts of what is left, %1 px now").arg(widthPx_)
                              : tr("heading and content, %1 px now").arg(widthPx_));
    minimum_->setValue(column.width.minimum);
    maximum_->setValue(column.width.maximum);
    minimum_->setEnabled(!fixed);
    maximum_->setEnabled(!fixed);
    if (!index) {
        facts_->setText(tr("The table has no such column. Rename it in the database or take it out of the design."));
        return;
    }
    const FieldSchema& f = schema_.field(*index);
    QStringList facts;
    facts << (f.declaredType.empty() ? tr("no declared type") : QString::fromStdString(f.declaredType));
    if (f.primaryKeyRank > 0) facts << tr("primary key");
    if (f.required) facts << tr("required");
    if (f.unique && f.primaryKeyRank == 0) facts << tr("unique");
    if (f.defaultSql) facts << tr("default %1").arg(QString::fromStdString(*f.defaultSql));
    for (const ForeignKey& link : schema_.foreignKeys)
        if (link.fields.size() == 1 && link.fields[0] == f.name)
            facts << tr("links to %1").arg(QString::fromStdString(link.table));
    QString text = facts.join(QStringLiteral(", "));
    if (!f.permitted.empty()) {
        QStringList values;
        for (const std::string& value : f.permitted) values << QString::fromStdString(value);
        text += tr("\none of ") + values.join(QStringLiteral(", "));
    }
    facts_->setText(text);
}

void Fittings::fillGrid() {
    title_->setText(tr("Whole grid"));
    subtitle_->setText(tr("no column selected"));
    if (designTitle_->text() != QString::fromStdString(design_.title))
        designTitle_->setText(QString::fromStdString(design_.title));
    rowHeight_->setValue(design_.grid.rowHeight);
    stripes_->setChecked(design_.grid.stripes);
    lines_->setChecked(design_.grid.lines);
    pinned_->setValue(design_.grid.pinned);
}

}  // namespace jollyrow
