// SPDX-License-Identifier: MIT
#include "workbench/try/try_page.h"

#include <QFileInfo>
#include <QHBoxLayout>
#include <QLabel>
#include <QPainter>
#include <QPushButton>
#include <QStackedWidget>
#include <QVBoxLayout>
#include <algorithm>
#include <utility>

#include "core/base/source_address.h"
#include "core/rows/snapshot.h"
#include "core/session/session.h"
#include "core/sources/source.h"
#include "grid/api/filter_words.h"
#include "grid/api/load_line.h"
#include "grid/api/parameter_bar.h"
#include "grid/records/change_list.h"
#include "grid/sheet/record_sheet.h"
#include "workbench/app/icons.h"
#include "workbench/app/look.h"
#include "workbench/controls/controls.h"
#include "workbench/popovers/figure_popover.h"

namespace jollyrow {
namespace {

constexpr int kRibbonHeight = 36;

/// The form's frame around the grid.
class Sheet final : public QWidget {
  public:
    using QWidget::QWidget;

  protected:
    void paintEvent(QPaintEvent*) override {
        QPainter painter(this);
        painter.setRenderHint(QPainter::Antialiasing);
        painter.setPen(QPen(look().hair, 1));
        painter.setBrush(look().paper);
        painter.drawRoundedRect(QRectF(rect()).adjusted(0.5, 0.5, -0.5, -0.5), 6, 6);
    }
};

/// Something is on its way to the store.
bool isSaving(const Grid& grid) {
    if (grid.records().unsaved() == 0) return false;
    const auto changes = grid.records().changes();
    return std::any_of(changes.begin(), changes.end(), [](const RecordChanges& c) {
        return c.state == EditState::Saving || std::any_of(c.cells.begin(), c.cells.end(), [](const auto& cell) {
                   return cell.state == EditState::Saving;
               });
    });
}

}  // namespace

TryPage::TryPage(QWidget* parent)
    : QWidget(parent),
      ribbon_(new QLabel(this)),
      title_(new QLabel(this)),
      subtitle_(new QLabel(this)),
      count_(new QLabel(this)),
      foot_(new QLabel(this)),
      buttons_{new QPushButton(makeIcon(Icon::ChevronLeft, look().ink2, 14), tr("Back to Build"), this),
               new QPushButton(tr("New record"), this), new QPushButton(this),
               new QPushButton(tr("Throw it away"), this), new QPushButton(this)},
      side_(new QStackedWidget(this)),
      grid_(nullptr) {
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(0, 0, 0, 0);
    layout->setSpacing(0);
    layout->addWidget(makeRibbon());
    layout->addLayout(makeHead());
    grid_ = new Grid(this);
    grid_->records().setDraftFolder({});  // the copy is thrown away, and what is typed into it with it
    auto* words = new QVBoxLayout;
    words->setContentsMargins(4, 0, 2, 8);
    words->addWidget(new ParameterBar(*grid_, this));
    words->addWidget(new FilterWords(*grid_, this));
    layout->addLayout(words);
    layout->addLayout(makeWorkplace(), 1);
    connectButtons();
    connectGrid();
}

QWidget* TryPage::makeRibbon() {
    auto* ribbon = new QHBoxLayout;
    ribbon->setContentsMargins(16, 5, 16, 5);
    ribbon_->setTextFormat(Qt::RichText);
    ribbon->addWidget(ribbon_, 1);
    buttons_.keep->setObjectName(QStringLiteral("keepTrial"));
    buttons_.keep->setToolTip(
        tr("Writes what the trial came to into the database itself, in one transaction, where nobody has "
           "changed the same records meanwhile"));
    buttons_.again->setObjectName(QStringLiteral("throwTrialAway"));
    buttons_.again->setToolTip(tr("Begins again with a new copy. Leaving the trial throws it away, too."));
    for (QPushButton* button : {buttons_.keep, buttons_.again}) {
        button->hide();
        ribbon->addWidget(button);
    }
    ribbon->addSpacing(8);
    ribbon->addWidget(buttons_.back);
    auto* ribbonBox = new QWidget(this);
    ribbonBox->setFixedHeight(scaled(kRibbonHeight));
    ribbonBox->setLayout(ribbon);
    return ribbonBox;
}

QLayout* TryPage::makeHead() {
    auto* head = new QHBoxLayout;
    head->setContentsMargins(18, 14, 18, 12);
    head->setSpacing(12);
    title_->setFont(sized(19, QFont::DemiBold));
    title_->setTextFormat(Qt::PlainText);
    subtitle_->setForegroundRole(QPalette::PlaceholderText);
    count_->setTextFormat(Qt::RichText);
    head->addWidget(title_);
    head->addWidget(subtitle_, 1);
    head->addWidget(count_);
    buttons_.changes->setObjectName(QStringLiteral("showChanges"));
    buttons_.changes->setToolTip(tr("What is not saved yet"));
    head->addWidget(buttons_.changes);
    buttons_.newRecord->setObjectName(QStringLiteral("newRecord"));
    buttons_.newRecord->setToolTip(tr("Begins a new record (Insert)"));
    buttons_.newRecord->setProperty("primary", true);
    head->addWidget(buttons_.newRecord);
    return head;
}

/// The grid on its sheet, and beside it the record or the list of changes.
QLayout* TryPage::makeWorkplace() {
    auto* sheet = new Sheet(this);
    auto* inside = new QVBoxLayout(sheet);
    inside->setContentsMargins(1, 1, 1, 1);
    inside->setSpacing(0);
    inside->addWidget(grid_, 1);
    inside->addWidget(new LoadLine(*grid_, sheet));
    foot_->setContentsMargins(12, 7, 12, 8);
    foot_->setForegroundRole(QPalette::PlaceholderText);
    foot_->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Preferred);  // a long message makes no window wider
    inside->addWidget(foot_);
    auto* around = new QHBoxLayout;
    around->setContentsMargins(16, 0, 16, 14);
    around->setSpacing(14);
    around->addWidget(sheet, 1);
    record_ = new RecordSheet(*grid_, side_);
    changeList_ = new ChangeList(*grid_, side_);
    side_->addWidget(record_);
    side_->addWidget(changeList_);
    side_->setFixedWidth(scaled(316));
    around->addWidget(side_);
    return around;
}

void TryPage::connectButtons() {
    connect(buttons_.back, &QPushButton::clicked, this, &TryPage::backToBuild);
    connect(buttons_.keep, &QPushButton::clicked, this, &TryPage::keep);
    connect(buttons_.again, &QPushButton::clicked, this, [this] { begin(design_, formTitle_, realPath_); });
    connect(buttons_.newRecord, &QPushButton::clicked, this, [this] { grid_->records().begin(); });
    connect(buttons_.changes, &QPushButton::clicked, this,
            [this] { side_->setCurrentIndex(side_->currentIndex() == 0 ? 1 : 0); });
    connect(side_, &QStackedWidget::currentChanged, this, &TryPage::refresh);
    connect(changeList_, &ChangeList::closeWanted, this, [this] { side_->setCurrentIndex(0); });
    connect(record_, &RecordSheet::leaveWanted, this, [this] { grid_->setFocus(); });
}

void TryPage::connectGrid() {
    connect(grid_, &Grid::recordActivated, this, [this] {
        side_->setCurrentIndex(0);
        record_->focusFirst();
    });
    connect(grid_, &Grid::figureClicked, this, [this](int summary, quint32 node, const QRect& where) {
        auto* popover = new FigurePopover(this, *grid_, summary, node);
        connect(popover, &Popover::closed, this, [this] { grid_->setFocus(); });
        popover->openUnder({grid_->viewport()->mapTo(this, where.topLeft()), where.size()}, 400);
    });
    connect(grid_, &Grid::snapshotChanged, this, &TryPage::refresh);
    connect(grid_, &Grid::loadEnded, this, &TryPage::refresh);
    connect(grid_, &Grid::selectionChanged, this, &TryPage::refresh);
    connect(grid_, &Grid::selectionFigured, this, &TryPage::refresh);
    connect(grid_, &Grid::editAnswered, this, [this](bool saved, const QString& message) {
        saved_ += saved ? 1 : 0;
        problem_ = saved ? QString() : message;
        refresh();
    });
    connect(grid_, &Grid::recordAnswered, this, [this] {
        showKeeping();
        if (keepWanted_ && !isSaving(*grid_)) keepNow();
    });
    connect(grid_, &Grid::failed, this, [this](const QString& message) {
        problem_ = message;
        refresh();
    });
}

TryPage::~TryPage() { end(); }

void TryPage::begin(const Design& design, const QString& title, const QString& databasePath) {
    end();
    saved_ = 0;
    problem_.clear();
    design_ = design;
    realPath_ = databasePath;
    formTitle_ = title;
    log_->clear();
    log_->setTable(design.source.table);
    showKeeping();
    title_->setText(title);
    subtitle_->setText(QString::fromStdString(sourceNameOf(databasePath.toStdString())));
    count_->clear();
    foot_->setText(tr("Copying the database…"));
    ribbon_->setText(tr("<b style='color:%1'>Trial</b>&nbsp;&nbsp; This is the form as its users will have it. Edits "
                        "are saved for real, into a scratch copy of the database.")
                         .arg(look().brassText.name()));
    scratch_ = std::make_unique<QTemporaryDir>();
    if (!scratch_->isValid())
        return copied(
            Error{ErrorCode::Io, "No scratch folder could be made: " + scratch_->errorString().toStdString()});
    copyPath_ = scratch_->filePath(QFileInfo(databasePath).fileName());
    cancel_ = Cancel();
    copier_ = std::thread([this, from = databasePath.toStdString(), to = copyPath_.toStdString(), cancel = cancel_] {
        auto result = copyDatabase(from, to, cancel);
        if (cancel.requested()) return;
        QMetaObject::invokeMethod(this, [this, cancel, result] {
            if (!cancel.requested()) copied(result);
        });
    });
}

void TryPage::copied(const Result<void>& result) {
    Result<void> opened = result;
    if (result) opened = openCopy();
    if (!opened) {
        foot_->setText(QString::fromStdString(opened.error().message));
        return;
    }
    ready_ = true;
    grid_->setFocus();
    refresh();
}

/// On the copy, noting what is saved in it.
Result<void> TryPage::openCopy() {
    const std::string path = copyPath_.toStdString();
    auto source = openSource(path);
    if (!source) return source.error();
    return grid_->open(design_, *source, TrialLog::noting(log_, [path] { return openStore(path); }), copyPath_);
}

namespace {
Result<void> keptIn(const std::string& path, const TrialLog& log) {
    auto store = openStore(path);
    if (!store) return store.error();
    return log.keep(**store);
}
}  // namespace

/// What is on its way into the copy is waited for: it is counted by then, and meant to be kept with the rest.
void TryPage::keep() {
    if (keeping_) return;
    keeping_ = true;
    setWorkable(false);  // nothing is noted that is not kept
    showKeeping();
    keepWanted_ = isSaving(*grid_);
    if (!keepWanted_) keepNow();
}

/// On a thread of its own: a locked database is waited for.
void TryPage::keepNow() {
    keepWanted_ = false;
    if (grid_->records().unsaved() != 0) {
        keeping_ = false;
        setWorkable(true);
        showKeeping();
        problem_ = tr("Something in the trial is not saved yet: save it or take it back first, then keep.");
        return refresh();
    }
    if (copier_.joinable()) copier_.join();
    copier_ = std::thread([this, path = realPath_.toStdString(), log = log_, cancel = cancel_] {
        const Result<void> done = keptIn(path, *log);
        QMetaObject::invokeMethod(this, [this, done, log, cancel] {
            keeping_ = false;
            setWorkable(true);
            if (cancel.requested()) return;
            // New records have other keys there than in the copy: a new trial begins on a new one.
            if (done) begin(design_, formTitle_, realPath_);
            problem_ = done ? tr("Kept in %1.").arg(QFileInfo(realPath_).fileName())
                            : QString::fromStdString(done.error().message);
            showKeeping();
            refresh();
            if (done) Q_EMIT kept();
        });
    });
}

void TryPage::setWorkable(bool workable) {
    for (QWidget* widget : std::initializer_list<QWidget*>{grid_, side_, buttons_.newRecord})
        widget->setEnabled(workable);
}

void TryPage::showKeeping() {
    const auto records = static_cast<qint64>(log_->records());
    buttons_.keep->setVisible(records != 0);
    buttons_.again->setVisible(records != 0);
    buttons_.keep->setEnabled(!keeping_);
    buttons_.again->setEnabled(!keeping_);
    const QString file = QFileInfo(realPath_).fileName();
    buttons_.keep->setText(records == 1 ? tr("Keep 1 record in %1").arg(file)
                                        : tr("Keep %1 records in %2").arg(grouped(records), file));
}

void TryPage::end() {
    cancel_.request();
    if (copier_.joinable()) copier_.join();
    if (std::exchange(keepWanted_, false)) {
        keeping_ = false;
        setWorkable(true);
    }
    ready_ = false;
    scratch_.reset();
}

void TryPage::refresh() {
    if (!ready_ || !grid_->snapshot()) return;
    const QString count = grouped(grid_->snapshot() ? grid_->snapshot()->recordCount() : 0);
    count_->setText(!grid_->snapshot()->table->complete ? tr("<b>%1</b> records so far").arg(count)
                                                        : tr("<b>%1</b> records").arg(count));
    count_->setVisible(grid_->design().filter.empty());  // else the words above the grid say it
    QString text = grid_->selection().count() > 1 ? tr("%1 records selected").arg(grouped(grid_->selection().count()))
                                                  : tr("Double-click or F2 edits a cell; Enter saves it.");
    const std::size_t unsaved = grid_->records().unsaved();
    const std::size_t changed = unsaved == 0 ? 0 : grid_->records().changes().size();
    buttons_.changes->setText(side_->currentIndex() == 1 ? tr("Record")
                              : changed == 0             ? tr("No changes")
                              : changed == 1             ? tr("1 record changed")
                                             : tr("%1 records changed").arg(grouped(static_cast<qint64>(changed))));
    buttons_.changes->setEnabled(changed != 0 || side_->currentIndex() == 1);
    buttons_.newRecord->setVisible(grid_->design().grid.canInsert && grid_->session().schema().writable);
    if (!grid_->selection().figures().isEmpty()) text = grid_->selection().figures();
    if (saved_ != 0)
        text += tr("   ·   %n edit(s) saved in the scratch copy", nullptr, saved_)
                    .replace(QStringLiteral("edit(s)"), saved_ == 1 ? tr("edit") : tr("edits"));
    if (unsaved != 0) text += unsaved == 1 ? tr("   ·   1 not saved") : tr("   ·   %1 not saved").arg(unsaved);
    foot_->setText(problem_.isEmpty() ? text : problem_ + QStringLiteral("   ·   ") + text);
}

void TryPage::paintEvent(QPaintEvent*) {
    const Tokens& t = look();
    QPainter painter(this);
    painter.fillRect(rect(), t.page);
    painter.fillRect(0, 0, width(), kRibbonHeight, t.brassPale);
    painter.fillRect(0, kRibbonHeight - 1, width(), 1, t.ribbonEdge);
}

}  // namespace jollyrow
