// SPDX-License-Identifier: MIT
#include "workbench/popovers/looks_popover.h"

#include <QColorDialog>
#include <QFileDialog>
#include <QGridLayout>
#include <QLabel>
#include <QLineEdit>
#include <QPainter>
#include <QPushButton>
#include <QToolButton>
#include <QVBoxLayout>

#include "core/session/session.h"
#include "grid/api/grid.h"
#include "grid/paint/looks.h"
#include "workbench/app/look.h"
#include "workbench/controls/controls.h"
#include "workbench/controls/segmented_switch.h"
#include "workbench/fittings/fitting_section.h"

namespace jollyrow {
namespace {

/// The colours that are set by hand; the others follow from them.
struct ShownColour {
    const char* name;
    const char* words;
};
constexpr ShownColour kShown[] = {
    {"paper", QT_TRANSLATE_NOOP("jollyrow::LooksPopover", "Records")},
    {"stripe", QT_TRANSLATE_NOOP("jollyrow::LooksPopover", "Every other record")},
    {"panel", QT_TRANSLATE_NOOP("jollyrow::LooksPopover", "Headings")},
    {"panel2", QT_TRANSLATE_NOOP("jollyrow::LooksPopover", "Totals and groups")},
    {"page", QT_TRANSLATE_NOOP("jollyrow::LooksPopover", "Filter row, cards")},
    {"ink", QT_TRANSLATE_NOOP("jollyrow::LooksPopover", "Text")},
    {"ink2", QT_TRANSLATE_NOOP("jollyrow::LooksPopover", "Quiet text")},
    {"hair2", QT_TRANSLATE_NOOP("jollyrow::LooksPopover", "Lines")},
    {"strongEdge", QT_TRANSLATE_NOOP("jollyrow::LooksPopover", "Strong lines")},
    {"teal", QT_TRANSLATE_NOOP("jollyrow::LooksPopover", "What acts")},
    {"tealPale", QT_TRANSLATE_NOOP("jollyrow::LooksPopover", "Selected")},
    {"hoverRow", QT_TRANSLATE_NOOP("jollyrow::LooksPopover", "Under the pointer")},
    {"buoy", QT_TRANSLATE_NOOP("jollyrow::LooksPopover", "To be put right")},
    {"brass", QT_TRANSLATE_NOOP("jollyrow::LooksPopover", "Second series")},
    {"blue", QT_TRANSLATE_NOOP("jollyrow::LooksPopover", "Data")},
};

QString readyWords(std::string_view name) {
    return name == "yard"    ? LooksPopover::tr("Yard")
           : name == "slate" ? LooksPopover::tr("Slate")
           : name == "chart" ? LooksPopover::tr("Chart")
                             : LooksPopover::tr("High contrast");
}

/// A small grid in a look, half of it in the dark.
class LookTile final : public QToolButton {
  public:
    static constexpr int kWidth = 108, kPicture = 58;
    LookTile(const QString& words, const Tokens& light, const Tokens& dark, bool isOn, QWidget* parent)
        : QToolButton(parent), words_(words), light_(light), dark_(dark), isOn_(isOn) {
        setFixedSize(kWidth, kPicture + 20);
        setAccessibleName(words);
        setCursor(Qt::PointingHandCursor);
    }

  protected:
    void paintEvent(QPaintEvent*) override {
        const Tokens& own = jollyrow::look();
        QPainter painter(this);
        painter.setRenderHint(QPainter::Antialiasing);
        const QRectF box = QRectF(0, 0, width(), kPicture).adjusted(1.5, 1.5, -1.5, -1.5);
        QPainterPath round;
        round.addRoundedRect(box, 4, 4);
        painter.setClipPath(round);
        drawHalf(painter, QRectF(box.left(), box.top(), box.width() / 2, box.height()), light_);
        drawHalf(painter, QRectF(box.center().x(), box.top(), box.width() / 2 + 1, box.height()), dark_);
        painter.setClipping(false);
        painter.setBrush(Qt::NoBrush);
        painter.setPen(QPen(isOn_ ? own.brass : hasFocus() || underMouse() ? own.teal : own.hair, isOn_ ? 2 : 1));
        painter.drawPath(round);
        painter.setFont(sized(11, isOn_ ? QFont::DemiBold : QFont::Normal));
        painter.setPen(isOn_ ? own.brassText : own.ink2);
        painter.drawText(QRectF(0, kPicture, width(), 18), Qt::AlignCenter,
                         painter.fontMetrics().elidedText(words_, Qt::ElideRight, width() - 4));
    }

  private:
    static void drawHalf(QPainter& painter, const QRectF& box, const Tokens& t) {
        painter.setPen(Qt::NoPen);
        painter.fillRect(box, t.paper);
        painter.fillRect(QRectF(box.left(), box.top(), box.width(), 13), t.panel);
        const qreal left = box.left() + 7;
        const auto word = [&](qreal y, qreal length, const QColor& ink) {
            painter.fillRect(QRectF(left, y, length, 3), ink);
        };
        word(box.top() + 5, 18, t.ink);
        for (int row = 0; row < 3; ++row) {
            const qreal top = box.top() + 13 + row * 11;
            const QRectF line(box.left(), top, box.width(), 11);
            painter.fillRect(line, row == 1 ? t.tealPale : row == 2 ? t.stripe : t.paper);
            painter.fillRect(QRectF(line.left(), line.bottom() - 1, line.width(), 1), t.hair2);
            word(top + 4, row == 1 ? 24 : 15 + row * 4, row == 2 ? t.ink2 : t.ink);
            painter.fillRect(QRectF(box.right() - 14, top + 4, 8 - row * 2, 3), row == 0 ? t.blue : t.teal);
        }
        painter.fillRect(QRectF(box.left(), box.top() + 46, box.width(), 12), t.panel2);
        painter.fillRect(QRectF(box.left(), box.top() + 46, box.width(), 1.5), t.ink);
        word(box.top() + 51, 12, t.ink);
    }

    QString words_;
    Tokens light_, dark_;
    bool isOn_;
};

QIcon swatch(const QColor& colour) {
    QPixmap picture(28, 28);
    picture.setDevicePixelRatio(2);
    picture.fill(Qt::transparent);
    QPainter painter(&picture);
    painter.setRenderHint(QPainter::Antialiasing);
    painter.setPen(QPen(look().entryEdge, 1));
    painter.setBrush(colour);
    painter.drawRoundedRect(QRectF(0.5, 0.5, 13, 13), 3, 3);
    return QIcon(picture);
}

}  // namespace

LooksPopover::LooksPopover(QWidget* window, const Design& design, Grid& grid)
    : NamedPopover(tr("Look"),
                   tr("The colours of the grid, each in light and in dark. Texts that would not be legible on what is "
                      "behind them are made lighter or darker."),
                   window, design, grid.session()),
      grid_(grid),
      isDark_(grid.look().dark) {
    rebuild();
}

std::size_t LooksPopover::count(const Design& design) const {
    std::size_t shape = std::hash<std::string>()(design.grid.look) * 31 + design.looks.size();
    for (const LookDesign& look : design.looks) {
        shape = shape * 31 + std::hash<std::string>()(look.base);
        for (const auto* colours : {&look.light, &look.dark})
            for (const auto& [name, colour] : *colours)
                shape = shape * 31 + std::hash<std::string>()(name) * 3 + std::hash<std::string>()(colour);
    }
    return shape;
}

LookDesign* LooksPopover::own(Design& design) const {
    for (LookDesign& look : design.looks)
        if (look.name == design.grid.look) return &look;
    return nullptr;
}

void LooksPopover::fill(QVBoxLayout& list) {
    addTiles(list);
    note_ = nullptr;
    if (own()) addOwn(list);
    addFiles(list);
    list.addStretch();
}

void LooksPopover::choose(const std::string& name) {
    Design next = design_;
    next.grid.look = name;
    takeLater(next, tr("Look"));
}

void LooksPopover::addTiles(QVBoxLayout& list) {
    constexpr int kAcross = 6;
    auto* grid = new QGridLayout;
    grid->setSpacing(8);
    int place = 0;
    const auto add = [&](const QString& words, const Tokens& light, const Tokens& dark, const std::string& name) {
        auto* tile = new LookTile(words, light, dark, design_.grid.look == name, cards());
        connect(tile, &QToolButton::clicked, this, [this, name] { choose(name); });
        grid->addWidget(tile, place / kAcross, place % kAcross);
        ++place;
    };
    Design usual;
    add(tr("As around it"), lookOf(usual, Theme::Light), lookOf(usual, Theme::Dark), {});
    for (const std::string_view name : kReadyLooks)
        add(readyWords(name), readyLook(name, Theme::Light), readyLook(name, Theme::Dark), std::string(name));
    for (const LookDesign& look : design_.looks)
        add(QString::fromStdString(look.name), ownLook(look, Theme::Light), ownLook(look, Theme::Dark), look.name);
    grid->setColumnStretch(kAcross, 1);
    list.addLayout(grid);
}

Tokens LooksPopover::tokensNow() const { return lookOf(design_, isDark_ ? Theme::Dark : Theme::Light); }

void LooksPopover::addOwn(QVBoxLayout& list) {
    auto* card = new Card(cards());
    auto* column = new QVBoxLayout(card);
    column->setContentsMargins(12, 10, 12, 10);
    column->setSpacing(8);
    auto* head = new QHBoxLayout;
    head->setSpacing(8);
    addHead(*head);
    column->addLayout(head);
    auto* colours = new QGridLayout;
    colours->setHorizontalSpacing(8);
    colours->setVerticalSpacing(6);
    addColours(*colours);
    column->addLayout(colours);
    note_ = quietLabel({}, cards());
    note_->setWordWrap(true);
    column->addWidget(note_);
    noteLegibility();
    list.addWidget(card);
}

void LooksPopover::addHead(QHBoxLayout& row) {
    const LookDesign& look = *own();
    row.addWidget(quietLabel(tr("Name"), cards()));
    auto* name = smallEntry(tr("Name of the look"), 150, cards());
    name->setText(QString::fromStdString(look.name));
    connect(name, &QLineEdit::editingFinished, this, [this, name] {
        Design next = design_;
        LookDesign* changed = own(next);
        const std::string wished = name->text().trimmed().toStdString();
        const bool isTaken = isReadyLook(wished) || std::any_of(next.looks.begin(), next.looks.end(),
                                                                [&](const LookDesign& l) { return l.name == wished; });
        if (!changed || wished.empty() || isTaken) return name->setText(QString::fromStdString(design_.grid.look));
        changed->name = next.grid.look = wished;
        takeLater(next, tr("Name of a look"));
    });
    row.addWidget(name);
    row.addWidget(quietLabel(tr("from %1").arg(readyWords(look.base)), cards()));
    row.addStretch(1);
    auto* sets = new SegmentedSwitch({tr("Light"), tr("Dark")}, cards());
    sets->setCurrent(isDark_ ? 1 : 0);
    sets->setToolTip(tr("Which of the two sets is set, and shown by the grid"));
    connect(sets, &SegmentedSwitch::chosen, this, [this](int index) {
        isDark_ = index == 1;
        Design next = design_;
        next.grid.theme = isDark_ ? GridTheme::Dark : GridTheme::Light;
        takeLater(next, tr("Theme"));
    });
    row.addWidget(sets);
    auto* away = cardButton(Icon::Cross, tr("Take the look away"), true, cards());
    connect(away, &QToolButton::clicked, this, [this] {
        Design next = design_;
        std::erase_if(next.looks, [&](const LookDesign& l) { return l.name == next.grid.look; });
        next.grid.look.clear();
        takeLater(next, tr("Take a look away"));
    });
    row.addWidget(away);
}

void LooksPopover::addColours(QGridLayout& to) {
    const Tokens now = tokensNow();
    const auto& given = isDark_ ? own()->dark : own()->light;
    int place = 0;
    for (const ShownColour& shown : kShown) {
        const auto known = std::find_if(lookColours().begin(), lookColours().end(),
                                        [&](const LookColour& c) { return c.name == shown.name; });
        auto* button = new QPushButton(swatch(now.*known->member), tr(shown.words), cards());
        button->setObjectName(QString::fromLatin1(shown.name));
        button->setToolTip(given.contains(shown.name)
                               ? tr("%1, set here").arg((now.*known->member).name())
                               : tr("%1, as %2 has it").arg((now.*known->member).name(), readyWords(own()->base)));
        QFont font = button->font();
        font.setWeight(given.contains(shown.name) ? QFont::DemiBold : QFont::Normal);
        button->setFont(font);
        connect(button, &QPushButton::clicked, this, [this, name = std::string(shown.name)] { pickColour(name); });
        to.addWidget(button, place / 5, place % 5);
        ++place;
    }
}

bool LooksPopover::setColour(const std::string& name, const std::string& colour) {
    Design next = design_;
    LookDesign* look = own(next);
    if (!look || !isColour(colour)) return false;
    (isDark_ ? look->dark : look->light)[name] = colour;
    takeLater(next, tr("Colour of a look"));
    return true;
}

void LooksPopover::pickColour(const std::string& name) {
    const auto known =
        std::find_if(lookColours().begin(), lookColours().end(), [&](const LookColour& c) { return c.name == name; });
    auto* dialog = new QColorDialog(tokensNow().*known->member, this);
    dialog->setAttribute(Qt::WA_DeleteOnClose);
    dialog->setOption(QColorDialog::DontUseNativeDialog);
    connect(dialog, &QColorDialog::colorSelected, this,
            [this, name](const QColor& colour) { setColour(name, colour.name().toStdString()); });
    dialog->open();
}

void LooksPopover::noteLegibility() {
    std::vector<std::string> adjusted, failed;
    ownLook(*own(), isDark_ ? Theme::Dark : Theme::Light, &adjusted, &failed);
    const auto words = [](const std::vector<std::string>& names) {
        QStringList out;
        for (const std::string& name : names) out << QString::fromStdString(name);
        return out.join(QStringLiteral(", "));
    };
    QString text;
    if (!failed.empty())
        text = tr("What is behind these is both light and dark, so they cannot be legible on all of it: %1. ")
                   .arg(words(failed));
    if (!adjusted.empty()) text += tr("Made lighter or darker to be legible: %1.").arg(words(adjusted));
    note_->setText(text.isEmpty() ? tr("All texts are legible: at least 4.5 to 1 on what is behind them.") : text);
}

void LooksPopover::makeOwn() {
    Design next = design_;
    const LookDesign* from = own();
    LookDesign look = from ? *from : LookDesign{};
    if (!from) look.base = isReadyLook(design_.grid.look) ? design_.grid.look : "yard";
    for (int n = 1; n == 1 || std::any_of(next.looks.begin(), next.looks.end(),
                                          [&](const LookDesign& l) { return l.name == look.name; });
         ++n)
        look.name = n == 1 ? tr("My look").toStdString() : tr("My look %1").arg(n).toStdString();
    next.grid.look = look.name;
    next.looks.push_back(std::move(look));
    takeLater(next, tr("Make a look"));
}

bool LooksPopover::saveTo(const QString& path) {
    const LookDesign* look = own();
    if (!look) return false;
    const auto done = writeLookFile(path.toStdString(), *look);
    showProblem(done ? QString() : QString::fromStdString(done.error().message));
    return done.ok();
}

bool LooksPopover::loadFrom(const QString& path) {
    auto read = readLookFile(path.toStdString());
    if (!read) return showProblem(QString::fromStdString(read.error().message)), false;
    Design next = design_;
    std::erase_if(next.looks, [&](const LookDesign& l) { return l.name == read->look.name; });
    if (isReadyLook(read->look.name)) read->look.name += tr(" of mine").toStdString();
    next.grid.look = read->look.name;
    next.looks.push_back(read->look);
    takeLater(next, tr("Take a look from a file"));
    if (!read->findings.empty()) showProblem(QString::fromStdString(read->findings.front().message));
    return true;
}

void LooksPopover::addFiles(QVBoxLayout& list) {
    auto* row = new QHBoxLayout;
    row->setSpacing(8);
    const auto add = [&](const QString& words, const QString& tip, const auto& act) {
        auto* button = new QPushButton(words, cards());
        button->setToolTip(tip);
        connect(button, &QPushButton::clicked, this, act);
        row->addWidget(button);
        return button;
    };
    add(tr("Make my own"), tr("A look to be changed, from the one that the grid has"), [this] {
        makeOwn();
    })->setObjectName(QStringLiteral("makeLook"));
    const auto ask = [this](const QString& title, QFileDialog::AcceptMode mode, const auto& take) {
        auto* dialog = new QFileDialog(this, title);
        dialog->setAttribute(Qt::WA_DeleteOnClose);
        dialog->setAcceptMode(mode);
        dialog->setNameFilter(tr("Looks (*.jlook)"));
        dialog->setDefaultSuffix(QStringLiteral("jlook"));
        connect(dialog, &QFileDialog::fileSelected, this, take);
        dialog->open();
    };
    add(tr("From a file…"), tr("Takes a look that was saved"), [this, ask] {
        ask(tr("Take a look"), QFileDialog::AcceptOpen, [this](const QString& path) { loadFrom(path); });
    });
    if (own())
        add(tr("Save as a file…"), tr("For other designs, or for all grids of an application"), [this, ask] {
            ask(tr("Save the look"), QFileDialog::AcceptSave, [this](const QString& path) { saveTo(path); });
        });
    row->addStretch();
    list.addLayout(row);
}

}  // namespace jollyrow
