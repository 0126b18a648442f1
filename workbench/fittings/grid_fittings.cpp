// SPDX-License-Identifier: MIT
#include "workbench/fittings/grid_fittings.h"

#include <QComboBox>
#include <QCompleter>
#include <QLocale>
#include <QPushButton>
#include <QRegularExpression>

#include "core/base/source_address.h"
#include "core/columns/civil.h"
#include "core/columns/time_zone.h"
#include "workbench/app/look.h"
#include "workbench/controls/controls.h"
#include "workbench/controls/segmented_switch.h"

namespace jollyrow {
namespace {
constexpr int kDensities[] = {22, 26, 34};  // pixels a row
}

GridFittings::GridFittings(QWidget* parent) : QWidget(parent) {
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(0, 0, 0, 0);
    layout->setSpacing(0);
    addTitle(*layout);
    addRows(*layout);
    auto* order = new Section(tr("Filter and order"), this);
    addSwitches(GridSwitchPlace::Order, order, *order->body());
    layout->addWidget(order);
    addStyles(*layout);
    addEntering(*layout);
    addPins(*layout);
    auto* widths = new Section(tr("Widths"), this);
    addSwitches(GridSwitchPlace::Widths, widths, *widths->body());
    layout->addWidget(widths);
    addTheme(*layout);
    addLinks(*layout);
    auto* hint = new Section(tr("One column"), this);
    auto* text =
        quietLabel(tr("Click a heading or a line of the outline to see its settings; with Shift or Ctrl, several "
                      "at once. Drag a heading onto another to put both under a new one."),
                   hint);
    text->setWordWrap(true);
    hint->body()->addWidget(text);
    layout->addWidget(hint);
    layout->addStretch();
}

void GridFittings::addTitle(QVBoxLayout& layout) {
    auto* title = new Section(tr("Title of the design"), this);
    title_ = smallEntry(tr("Title"), 0, title);
    title->body()->addWidget(title_);
    auto* language = title->row();
    locale_ = smallEntry(tr("Locale"), 84, title);
    locale_->setPlaceholderText(tr("none"));
    localeNote_ = quietLabel({}, title);
    language->addWidget(quietLabel(tr("locale"), title));
    language->addWidget(locale_);
    language->addWidget(localeNote_, 1);
    auto* clocks = title->row();
    zone_ = smallEntry(tr("Time zone"), 124, title);
    zone_->setPlaceholderText(tr("this machine"));
    zone_->setToolTip(tr("Whose clocks show points of time that the table keeps with their zone or as counts."));
    QStringList names;
    for (const std::string& name : TimeZone::names()) names << QString::fromStdString(name);
    auto* completer = new QCompleter(names, zone_);
    completer->setCaseSensitivity(Qt::CaseInsensitive);
    completer->setFilterMode(Qt::MatchContains);
    zone_->setCompleter(completer);
    zoneNote_ = quietLabel({}, title);
    zoneNote_->setToolTip(tr("What its clocks show now. Zones are named like Europe/Berlin."));
    clocks->addWidget(quietLabel(tr("clocks"), title));
    clocks->addWidget(zone_);
    clocks->addWidget(zoneNote_, 1);
    layout.addWidget(title);
    connect(title_, &QLineEdit::textEdited, this, [this](const QString& words) {
        change(tr("Rename the design"), [&](Design& d) { d.title = words.toStdString(); });
    });
    connect(locale_, &QLineEdit::textEdited, this, &GridFittings::takeLocale);
    connect(zone_, &QLineEdit::textEdited, this, [this](const QString& name) { noteZone(name); });
    connect(zone_, &QLineEdit::editingFinished, this, [this] { takeZone(zone_->text().trimmed()); });
    connect(completer, qOverload<const QString&>(&QCompleter::activated), this,
            [this](const QString& name) { takeZone(name); });
}

void GridFittings::addRows(QVBoxLayout& layout) {
    auto* rows = new Section(tr("Rows"), this);
    density_ = new SegmentedSwitch({tr("Compact"), tr("Normal"), tr("Roomy")}, rows);
    rows->body()->addWidget(density_);
    auto* heights = rows->row();
    rowHeight_ = pixelsBox(16, 400, rows);
    rowHeight_->setAccessibleName(tr("Row height"));
    heights->addWidget(quietLabel(tr("at least"), rows));
    heights->addWidget(rowHeight_);
    heights->addWidget(quietLabel(tr("high"), rows), 1);
    lineHeight_ = new SegmentedSwitch({tr("Fixed height"), tr("Grows with text")}, rows);
    rows->body()->addWidget(lineHeight_);
    auto* most = rows->row();
    mostLines_ = new QSpinBox(rows);
    mostLines_->setRange(1, 40);
    mostLines_->setFixedWidth(scaled(52));
    mostLines_->setAccessibleName(tr("Lines of text at most"));
    most->addWidget(quietLabel(tr("up to"), rows));
    most->addWidget(mostLines_);
    most->addWidget(quietLabel(tr("lines of wrapped text"), rows), 1);
    addSwitches(GridSwitchPlace::Rows, rows, *rows->body());
    layout.addWidget(rows);
    connect(density_, &SegmentedSwitch::chosen, this,
            [this](int index) { change(tr("Density"), [index](Design& d) { d.grid.rowHeight = kDensities[index]; }); });
    connect(rowHeight_, &QSpinBox::valueChanged, this,
            [this](int value) { change(tr("Row height"), [value](Design& d) { d.grid.rowHeight = value; }); });
    connect(lineHeight_, &SegmentedSwitch::chosen, this, [this](int index) {
        change(tr("Line height"), [index](Design& d) { d.grid.lineHeight = static_cast<LineHeight>(index); });
    });
    connect(mostLines_, &QSpinBox::valueChanged, this,
            [this](int value) { change(tr("Lines of text"), [value](Design& d) { d.grid.mostLines = value; }); });
}

void GridFittings::addPins(QVBoxLayout& layout) {
    auto* pins = new Section(tr("Stays in sight"), this);
    auto* count = pins->row();
    for (auto [box, name] : {std::pair(&pinned_, tr("Columns pinned at the left")),
                             std::pair(&pinnedRight_, tr("Columns pinned at the right"))}) {
        *box = new QSpinBox(pins);
        (*box)->setRange(0, 20);
        (*box)->setFixedWidth(scaled(44));
        (*box)->setAccessibleName(name);
    }
    count->addWidget(pinned_);
    count->addWidget(quietLabel(tr("columns left,"), pins));
    count->addWidget(pinnedRight_);
    count->addWidget(quietLabel(tr("right"), pins), 1);
    pinnedRecords_ = quietLabel({}, pins);
    pinnedRecords_->setWordWrap(true);
    pins->body()->addWidget(pinnedRecords_);
    layout.addWidget(pins);
    connect(pinned_, &QSpinBox::valueChanged, this,
            [this](int value) { change(tr("Pin columns"), [value](Design& d) { d.grid.pinned = value; }); });
    connect(pinnedRight_, &QSpinBox::valueChanged, this, [this](int value) {
        change(tr("Pin columns at the right"), [value](Design& d) { d.grid.pinnedRight = value; });
    });
}

void GridFittings::addStyles(QVBoxLayout& layout) {
    auto* styles = new Section(tr("Styles by rules"), this);
    auto* row = styles->row();
    auto* open = new QPushButton(tr("Styles…"), styles);
    open->setToolTip(tr("What cells or whole records look like where a condition holds"));
    connect(open, &QPushButton::clicked, this, &GridFittings::stylesWanted);
    auto* banners = new QPushButton(tr("Banner rows…"), styles);
    banners->setToolTip(tr("Records drawn as one heading across all columns, where a condition holds"));
    connect(banners, &QPushButton::clicked, this, &GridFittings::bannersWanted);
    stylesNote_ = quietLabel({}, styles);
    row->addWidget(open);
    row->addWidget(banners);
    row->addStretch();
    styles->body()->addWidget(stylesNote_);
    layout.addWidget(styles);
}

/// When what is entered is saved, and what it must keep to.
void GridFittings::addEntering(QVBoxLayout& layout) {
    auto* entering = new Section(tr("Entering and saving"), this);
    saving_ = new SegmentedSwitch({tr("Each cell"), tr("Each record"), tr("Together")}, entering);
    saving_->setObjectName(QStringLiteral("saving"));
    saving_->setToolTip(
        tr("When edits go to the database: as each cell is left, as each record is left, or all in one "
           "transaction by a press of Save"));
    entering->body()->addWidget(saving_);
    auto* place = entering->row();
    entryLine_ = new SegmentedSwitch({tr("None"), tr("Top"), tr("Foot")}, entering);
    entryLine_->setObjectName(QStringLiteral("entryLine"));
    entryLine_->setToolTip(tr("A line where new records are begun: under the headings, or at the foot"));
    place->addWidget(quietLabel(tr("Entry line"), entering));
    place->addWidget(entryLine_, 1);
    connect(entryLine_, &SegmentedSwitch::chosen, this, [this](int index) {
        change(tr("Entry line"), [index](Design& d) { d.grid.entryLine = static_cast<EntryLinePlace>(index); });
    });
    auto* selecting = entering->row();
    selection_ = new PickBox(entering);
    selection_->setObjectName(QStringLiteral("selection"));
    selection_->setAccessibleName(tr("What can be selected"));
    selection_->addItems({tr("One record"), tr("Records"), tr("Cells"), tr("Columns"), tr("Nothing")});
    selecting->addWidget(quietLabel(tr("Selected are"), entering));
    selecting->addWidget(selection_, 1);
    connect(selection_, &QComboBox::activated, this, [this](int index) {
        change(tr("What can be selected"),
               [index](Design& d) { d.grid.selection = static_cast<SelectionMode>(index); });
    });
    addConflicts(entering);
    auto* row = entering->row();
    auto* checks = new QPushButton(tr("Checks…"), entering);
    checks->setToolTip(tr("Rules that an edited record must keep before it is saved"));
    connect(checks, &QPushButton::clicked, this, &GridFittings::checksWanted);
    checksNote_ = quietLabel({}, entering);
    row->addWidget(checks);
    row->addWidget(checksNote_, 1);
    addSwitches(GridSwitchPlace::Entering, entering, *entering->body());
    trigger_ = new QPushButton(tr("How the server tells…"), entering);
    trigger_->setObjectName(QStringLiteral("trigger"));
    trigger_->setToolTip(tr("The trigger by which what others save is told"));
    connect(trigger_, &QPushButton::clicked, this, &GridFittings::triggerWanted);
    entering->body()->addWidget(trigger_, 0, Qt::AlignLeft);
    layout.addWidget(entering);
    connect(saving_, &SegmentedSwitch::chosen, this, [this](int index) {
        change(tr("When edits are saved"), [index](Design& d) { d.grid.saving = static_cast<Saving>(index); });
    });
}

/// Addresses that links open by themselves; what is never opened is not taken.
void GridFittings::addLinks(QVBoxLayout& layout) {
    auto* links = new Section(tr("Links may open"), this);
    linkSchemes_ = smallEntry(tr("Links may open"), 0, links);
    linkSchemes_->setPlaceholderText(tr("nothing by themselves; e.g. https, mailto"));
    links->body()->addWidget(linkSchemes_);
    linksNote_ = problemLabel(links);
    links->body()->addWidget(linksNote_);
    layout.addWidget(links);
    connect(linkSchemes_, &QLineEdit::textEdited, this, [this](const QString& text) {
        std::vector<std::string> schemes;
        QStringList never;
        for (const QString& word : text.split(QRegularExpression(QStringLiteral("[,;\\s]+")), Qt::SkipEmptyParts)) {
            const std::string scheme = word.toLower().remove(u':').remove(u'/').toStdString();
            if (!mayOpen(scheme))
                never << word;
            else if (std::find(schemes.begin(), schemes.end(), scheme) == schemes.end())
                schemes.push_back(scheme);
        }
        linksNote_->setVisible(!never.isEmpty());
        linksNote_->setText(tr("%1: never opened from a grid").arg(never.join(QStringLiteral(", "))));
        change(tr("Links may open"), [&](Design& d) { d.grid.linkSchemes = schemes; });
    });
}

void GridFittings::addTheme(QVBoxLayout& layout) {
    auto* theme = new Section(tr("Theme"), this);
    theme_ = new SegmentedSwitch({tr("As around it"), tr("Light"), tr("Dark")}, theme);
    theme->body()->addWidget(theme_);
    auto* looks = new QPushButton(tr("Look…"), theme);
    looks->setToolTip(tr("The colours of the grid: one of four looks, or one of your own"));
    connect(looks, &QPushButton::clicked, this, &GridFittings::looksWanted);
    theme->row()->addWidget(looks);
    theme->row()->addStretch();
    layout.addWidget(theme);
    connect(theme_, &SegmentedSwitch::chosen, this, [this](int index) {
        change(tr("Theme"), [index](Design& d) { d.grid.theme = static_cast<GridTheme>(index); });
    });
}

void GridFittings::takeLocale(const QString& tag) {
    const QLocale found(tag);
    const bool known = tag.isEmpty() || (tag.size() >= 2 && found != QLocale::c());
    localeNote_->setText(tag.isEmpty() ? QString()
                         : known       ? QLocale::languageToString(found.language())
                                       : tr("like de-DE"));
    if (known) change(tr("Locale"), [&](Design& d) { d.locale = tag.toStdString(); });
}

void GridFittings::noteZone(const QString& name) {
    const TimeZone* zone = TimeZone::named(name.toStdString());
    std::string now;
    if (zone) appendIsoTimestamp(now, zone->localNow());
    zoneNote_->setText(zone ? QString::fromStdString(now).mid(11, 5) : tr("unknown"));
}

void GridFittings::takeZone(const QString& name) {
    if (!TimeZone::named(name.toStdString()) || name.toStdString() == design_.source.zone) return;
    change(tr("Time zone"), [&](Design& d) { d.source.zone = name.toStdString(); });
}

template <class Change>
void GridFittings::change(const QString& label, const Change& change) {
    if (filling_) return;
    Design next = design_;
    change(next);
    Q_EMIT changed(next, label, Joining::WithLastOfSameName);
}

/// A box for each yes/no setting that has its place here.
void GridFittings::addSwitches(GridSwitchPlace place, QWidget* parent, QBoxLayout& layout) {
    for (const GridSwitch& one : kGridSwitches) {
        if (one.place != place) continue;
        auto* box = new CheckBox(tr(one.words), parent);
        box->setToolTip(tr(one.toolTip));
        layout.addWidget(box);
        switches_.emplace_back(box, &one);
        connect(box, &QCheckBox::clicked, this,
                [this, &one](bool on) { change(tr(one.step), [&one, on](Design& d) { d.grid.*one.setting = on; }); });
    }
}

/// What conflicts are known by, and who they are said to come from.
void GridFittings::addConflicts(Section* section) {
    const auto pick = [&](const QString& label, const QString& name, const QString& toolTip) {
        auto* box = new PickBox(section);
        box->setAccessibleName(name);
        box->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
        box->setMinimumContentsLength(8);
        box->setToolTip(toolTip);
        auto* row = section->row();
        row->addWidget(quietLabel(label, section));
        row->addWidget(box, 1);
        return box;
    };
    version_ = pick(
        tr("Conflicts by"), tr("Changes elsewhere are known by"),
        tr("A column that is another one after each change of its record: a count, which the grid carries on, or what "
           "the database makes.\nWithout one, an edit is compared with the value it was made on."));
    connect(version_, &QComboBox::activated, this, [this](int index) {
        const std::string field = version_->itemData(index).toString().toStdString();
        change(tr("What conflicts are known by"), [&](Design& d) { d.grid.version = field; });
    });
    changedBy_ = pick(tr("Changed by"), tr("Who has changed a record is told by"),
                      tr("A column of texts that the database, or whoever writes, keeps the name in of who has changed "
                         "the record last.\nConflicts are said with that name."));
    changedBy_->setObjectName(QStringLiteral("changedBy"));
    connect(changedBy_, &QComboBox::activated, this, [this](int index) {
        const std::string field = changedBy_->itemData(index).toString().toStdString();
        change(tr("Who has changed a record"), [&](Design& d) { d.grid.changedBy = field; });
    });
}

namespace {
/// Those of the table's own fields that `fits`, the chosen one among them whatever it is; `words` has %1 for its name.
void fillFields(QComboBox& box, const TableSchema& schema, const std::string& chosen, const QString& none,
                const QString& words, const std::function<bool(const FieldSchema&)>& fits) {
    box.clear();
    box.addItem(none, QString());
    for (std::size_t i = 0; i < schema.storedFields(); ++i) {
        const FieldSchema& field = schema.fields[i];
        const QString name = QString::fromStdString(field.name);
        if (field.join == 0 && field.primaryKeyRank == 0 && (fits(field) || field.name == chosen))
            box.addItem(words.arg(name), name);
    }
    const QString name = QString::fromStdString(chosen);
    if (!chosen.empty() && box.findData(name) < 0)
        box.addItem(GridFittings::tr("%1, which is not there").arg(name), name);
    box.setCurrentIndex(std::max(0, box.findData(name)));
}
}  // namespace

void GridFittings::fillConflicts(const TableSchema& schema) {
    fillFields(*version_, schema, design_.grid.version, tr("the values edited"), tr("the version in %1"),
               [](const FieldSchema& field) {
                   return !field.generated &&
                          (field.type == Type::Integer || field.type == Type::Timestamp || field.type == Type::Instant);
               });
    fillFields(*changedBy_, schema, design_.grid.changedBy, tr("nobody is named"), tr("the name in %1"),
               [](const FieldSchema& field) { return field.type == Type::Text; });
}

/// How many checks, styles and banners there are.
void GridFittings::fillNotes() {
    const auto checks =
        std::count_if(design_.checks.begin(), design_.checks.end(), [](const CheckDesign& c) { return c.on; });
    checksNote_->setText(design_.checks.empty() ? tr("the database's own")
                                                : tr("%1 of %2 on").arg(checks).arg(design_.checks.size()));
    const auto on =
        std::count_if(design_.styles.begin(), design_.styles.end(), [](const StyleDesign& s) { return s.on; });
    const QString styles =
        design_.styles.empty() ? tr("no styles") : tr("%1 of %2 styles on").arg(on).arg(design_.styles.size());
    const auto banners = static_cast<int>(design_.banners.size());
    stylesNote_->setText(banners == 0
                             ? styles
                             : tr("%1, %n banner(s)", nullptr, banners)
                                   .arg(styles)
                                   .replace(QStringLiteral("banner(s)"), banners == 1 ? tr("banner") : tr("banners")));
}

void GridFittings::setContent(const FittingsContent& content) {
    filling_ = true;
    design_ = content.design;
    const GridDesign& grid = design_.grid;
    fillEntry(title_, QString::fromStdString(design_.title));
    fillEntry(locale_, QString::fromStdString(design_.locale));
    fillEntry(zone_, QString::fromStdString(design_.source.zone));
    QStringList schemes;
    for (const std::string& scheme : grid.linkSchemes) schemes << QString::fromStdString(scheme);
    if (!linkSchemes_->hasFocus()) linkSchemes_->setText(schemes.join(QStringLiteral(", ")));
    noteZone(zone_->text());
    int density = -1;
    for (int i = 0; i < 3; ++i)
        if (kDensities[i] == grid.rowHeight) density = i;
    density_->setCurrent(density);
    rowHeight_->setValue(grid.rowHeight);
    lineHeight_->setCurrent(static_cast<int>(grid.lineHeight));
    mostLines_->setValue(grid.mostLines);
    mostLines_->setEnabled(grid.lineHeight == LineHeight::Automatic);
    for (const auto& [box, setting] : switches_) box->setChecked(grid.*setting->setting);
    pinned_->setValue(grid.pinned);
    pinnedRight_->setValue(grid.pinnedRight);
    pinnedRecords_->setText(
        grid.pinnedRecords.empty()
            ? tr("Records are pinned by their menu.")
            : tr("%n record(s), unpinned by their menu", nullptr, static_cast<int>(grid.pinnedRecords.size()))
                  .replace(QStringLiteral("record(s)"), grid.pinnedRecords.size() == 1 ? tr("record") : tr("records")));
    theme_->setCurrent(static_cast<int>(grid.theme));
    saving_->setCurrent(static_cast<int>(grid.saving));
    trigger_->setVisible(grid.followsOthers && isServerAddress(content.design.source.path));
    entryLine_->setCurrent(static_cast<int>(grid.entryLine));
    selection_->setCurrentIndex(static_cast<int>(grid.selection));
    fillConflicts(content.schema);
    fillNotes();
    filling_ = false;
}

}  // namespace jollyrow
