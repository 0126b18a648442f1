// SPDX-License-Identifier: MIT
// Covered by tests/grid/tst_record_control.cpp.
#include "grid/records/change_list.h"

#include <QGridLayout>
#include <QHBoxLayout>
#include <QLabel>
#include <QPainter>
#include <QPushButton>
#include <QScrollArea>
#include <QTimer>
#include <QVBoxLayout>

#include "core/session/session.h"
#include "grid/api/grid.h"
#include "grid/paint/edit_marks.h"
#include "grid/paint/fonts.h"
#include "grid/paint/grouped.h"
#include "grid/paint/palette_of.h"
#include "grid/paint/side_panel.h"

namespace jollyrow {
namespace {

constexpr int kFoot = 82;

class Mark final : public QWidget {
  public:
    Mark(CellMark mark, const Tokens& look, QWidget* parent) : QWidget(parent), mark_(mark), look_(look) {
        setFixedSize(18, 20);
    }

  protected:
    void paintEvent(QPaintEvent*) override {
        QPainter painter(this);
        drawRecordMark(painter, QPointF(8, 10), look_, mark_);
    }

  private:
    CellMark mark_;
    const Tokens& look_;
};

CellMark markOfChanges(const RecordChanges& changes) {
    if (changes.isBlocked && changes.state == EditState::Draft) return CellMark::Invalid;
    if (changes.state == EditState::Draft && changes.change == RecordChange::Insert) return CellMark::New;
    if (changes.state == EditState::Draft && changes.change == RecordChange::Delete) return CellMark::Deleted;
    return markOf(changes.state);
}

QString elidedIn(const QLabel& label, const QString& text, int width) {
    return label.fontMetrics().elidedText(QString(text).replace(u'\n', u' '), Qt::ElideRight, width);
}

void colour(QLabel& label, const QColor& ink) {
    QPalette palette = label.palette();
    palette.setColor(QPalette::WindowText, ink);
    label.setPalette(palette);
}

}  // namespace

ChangeList::ChangeList(Grid& grid, QWidget* parent)
    : QWidget(parent),
      grid_(grid),
      heading_(new QLabel(this)),
      note_(new QLabel(tr("Kept safe here until you save them"), this)),
      status_(new QLabel(this)),
      close_(new QPushButton(tr("Record"), this)),
      backAll_(new QPushButton(tr("Put back all"), this)),
      saveAll_(new QPushButton(tr("Save all"), this)),
      scroll_(new QScrollArea(this)) {
    setAccessibleName(tr("Changes that are not saved"));
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(1, 1, 1, 1);
    layout->setSpacing(0);
    auto* head = new QHBoxLayout;
    head->setContentsMargins(14, 13, 12, 11);
    auto* words = new QVBoxLayout;
    words->setSpacing(1);
    heading_->setFont(scaledFont(font(), 1.2));
    words->addWidget(heading_);
    words->addWidget(note_);
    head->addLayout(words, 1);
    head->addWidget(close_);
    layout->addLayout(head);
    scroll_->setWidgetResizable(true);
    scroll_->setFrameShape(QFrame::NoFrame);
    scroll_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    layout->addWidget(scroll_, 1);
    auto* foot = new QWidget(this);
    foot->setFixedHeight(kFoot);
    auto* below = new QVBoxLayout(foot);
    below->setContentsMargins(14, 9, 12, 10);
    auto* buttons = new QHBoxLayout;
    buttons->setSpacing(8);
    buttons->addStretch(1);
    buttons->addWidget(backAll_);
    buttons->addWidget(saveAll_);
    below->addWidget(status_);
    below->addLayout(buttons);
    layout->addWidget(foot);
    connect(close_, &QPushButton::clicked, this, &ChangeList::closeWanted);
    connect(backAll_, &QPushButton::clicked, this, [this] { grid_.records().revertAll(); });
    connect(saveAll_, &QPushButton::clicked, this, [this] { grid_.records().saveAll(); });
    // Many snapshots in a turn of the event loop make one list.
    connect(&grid, &Grid::snapshotChanged, this, [this] {
        if (std::exchange(pending_, true)) return;
        QTimer::singleShot(0, this, [this] {
            pending_ = false;
            refresh();
        });
    });
    refresh();
}

QString ChangeList::heading() const { return heading_->text(); }

QPushButton* ChangeList::link(const QString& words, QWidget* parent) {
    auto* button = new QPushButton(words, parent);
    button->setFlat(true);
    button->setCursor(Qt::PointingHandCursor);
    button->setStyleSheet(
        QStringLiteral("QPushButton{border:none;background:transparent;padding:1px 2px;color:%1;text-align:left}"
                       "QPushButton:hover,QPushButton:focus{text-decoration:underline}")
            .arg(grid_.look().tealText.name()));
    return button;
}

QWidget* ChangeList::recordOf(const RecordChanges& changes) {
    const Tokens& t = grid_.look();
    auto* box = new QWidget;
    auto* layout = new QGridLayout(box);
    layout->setContentsMargins(0, 4, 0, 6);
    layout->setHorizontalSpacing(5);
    layout->setVerticalSpacing(1);
    addTitle(*layout, changes);
    int row = 1;
    for (const RecordChanges::Cell& cell : changes.cells) addCell(*layout, row++, changes, cell);
    if (changes.change != RecordChange::Update && changes.state != EditState::Saving) {
        QPushButton* back = link(changes.change == RecordChange::Insert ? tr("Leave out") : tr("Bring back"), box);
        connect(back, &QPushButton::clicked, this, [this, record = changes.record] {
            if (const auto at = grid_.session().now(record.ref())) grid_.session().records().revert(*at);
        });
        layout->addWidget(back, row++, 5, Qt::AlignRight);
    }
    const QString message = changes.message.isEmpty() ? changes.overridden : changes.message;
    if (!message.isEmpty()) {
        auto* label = new QLabel(message, box);
        label->setTextFormat(Qt::PlainText);
        label->setWordWrap(true);
        colour(*label, changes.message.isEmpty() ? t.ink2 : t.buoyText);
        layout->addWidget(label, row, 1, 1, 5);
    }
    layout->setColumnStretch(4, 1);
    return box;
}

/// The record's name, which leads to it, and what becomes of it.
void ChangeList::addTitle(QGridLayout& layout, const RecordChanges& changes) {
    const Tokens& t = grid_.look();
    QWidget* box = layout.parentWidget();
    layout.addWidget(new Mark(markOfChanges(changes), t, box), 0, 0);
    QPushButton* name = link(changes.name, box);
    QFont strong = font();
    strong.setWeight(QFont::DemiBold);
    name->setFont(strong);
    name->setObjectName(QStringLiteral("goTo"));
    connect(name, &QPushButton::clicked, this, [this, record = changes.record] {
        grid_.selection().show(record);
        grid_.setFocus();
    });
    layout.addWidget(name, 0, 1, 1, 3);
    const QString kind = changes.change == RecordChange::Insert   ? tr("new")
                         : changes.change == RecordChange::Delete ? tr("deleted")
                                                                  : tr("changed");
    auto* state = new QLabel(QStringLiteral("%1 · %2").arg(kind, words(markOf(changes.state))), box);
    if (changes.isBlocked) state->setText(QStringLiteral("%1 · %2").arg(kind, words(CellMark::Invalid)));
    colour(*state, changes.isToPutRight() ? t.buoyText : t.ink2);
    layout.addWidget(state, 0, 4, 1, 2, Qt::AlignRight);
}

/// A field, as it was and as it is.
void ChangeList::addCell(QGridLayout& layout, int row, const RecordChanges& changes, const RecordChanges::Cell& cell) {
    constexpr int kHeading = 74, kBefore = 76, kAfter = 82;
    const Tokens& t = grid_.look();
    QWidget* box = layout.parentWidget();
    const auto add = [&](const QString& text, int width, const QColor& ink, int column, Qt::Alignment side) {
        auto* label = new QLabel(box);
        label->setTextFormat(Qt::PlainText);
        label->setText(elidedIn(*label, text, width));
        label->setToolTip(text);
        colour(*label, ink);
        layout.addWidget(label, row, column, side);
    };
    add(cell.heading, kHeading, t.ink2, 1, Qt::AlignLeft);
    add(cell.before.isEmpty() ? tr("nothing") : cell.before, kBefore, t.ink2, 2, Qt::AlignRight);
    add(QStringLiteral("→"), 20, t.ink2, 3, Qt::AlignCenter);
    add(cell.after.isEmpty() ? tr("nothing") : cell.after, kAfter, t.ink, 4, Qt::AlignLeft);
    if (cell.state != EditState::Saving && changes.change == RecordChange::Update) {
        QPushButton* back = link(tr("Put back"), box);
        connect(back, &QPushButton::clicked, this, [this, record = changes.record, field = cell.field] {
            Session& session = grid_.session();
            const auto at = session.now(record.ref());
            const auto index = session.schema().find(field.toStdString());
            if (at && index) session.records().putBack(*at, *index);
        });
        layout.addWidget(back, row, 5, Qt::AlignRight);
    }
}

void ChangeList::addSection(QVBoxLayout& into, const QString& heading,
                            const std::vector<const RecordChanges*>& records) {
    if (records.empty()) return;
    const QString count = records.size() == 1 ? tr("1 record") : tr("%1 records").arg(grouped(records.size()));
    into.addWidget(new BracketLine(heading, count, grid_.look(), this));
    for (std::size_t i = 0; i < std::min(records.size(), kMostShown); ++i) into.addWidget(recordOf(*records[i]));
    if (records.size() > kMostShown) {
        auto* more = new QLabel(tr("and %1 more").arg(grouped(records.size() - kMostShown)), this);
        colour(*more, grid_.look().ink2);
        into.addWidget(more);
    }
}

void ChangeList::refresh() {
    if (const QPalette own = paletteOf(grid_.look(), grid_.palette()); palette() != own) setPalette(own);
    const Tokens& t = grid_.look();
    const std::vector<RecordChanges> all = grid_.records().changes();
    std::vector<const RecordChanges*> wrong, drafts, saving;
    std::size_t count = 0;
    for (const RecordChanges& one : all) {
        count += one.change == RecordChange::Update ? one.cells.size() : 1;
        (one.isToPutRight() ? wrong : one.state == EditState::Saving ? saving : drafts).push_back(&one);
    }
    const QString changes = count == 1 ? tr("1 change") : tr("%1 changes").arg(grouped(count));
    const QString records = all.size() == 1 ? tr("1 record") : tr("%1 records").arg(grouped(all.size()));
    heading_->setText(all.empty() ? tr("No changes") : tr("%1 in %2").arg(changes, records));
    note_->setText(all.empty() ? tr("Everything is saved") : tr("Kept safe here until you save them"));
    colour(*note_, t.ink2);
    auto* content = new QWidget;
    auto* layout = new QVBoxLayout(content);
    layout->setContentsMargins(14, 0, 12, 8);
    layout->setSpacing(0);
    addSection(*layout, tr("To put right"), wrong);
    addSection(*layout, tr("Drafts"), drafts);
    addSection(*layout, tr("Being saved"), saving);
    layout->addStretch(1);
    QPalette clear = content->palette();
    clear.setColor(QPalette::Window, t.paper);
    content->setPalette(clear);
    scroll_->setPalette(clear);
    scroll_->setWidget(content);
    status_->setText(!wrong.empty() ? tr("%1 to put right").arg(grouped(wrong.size()))
                     : all.empty()  ? QString()
                                    : tr("Saved in one transaction: all or none"));
    colour(*status_, wrong.empty() ? t.ink2 : t.buoyText);
    backAll_->setEnabled(!wrong.empty() || !drafts.empty());
    saveAll_->setEnabled(!drafts.empty());
    saveAll_->setStyleSheet(panelButtonSheet(t, true));
    backAll_->setStyleSheet(panelButtonSheet(t, false));
    close_->setStyleSheet(panelButtonSheet(t, false));
}

void ChangeList::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    paintSidePanel(painter, rect(), scroll_->y(), kFoot, grid_.look());
}

}  // namespace jollyrow
