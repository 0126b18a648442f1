// SPDX-License-Identifier: MIT
#pragma once
// TryPage: the grid as form users will have it, on a scratch copy of the database, so that every edit saves for real
// and harms nothing. The copy is made behind, with progress, and removed on leaving.

#include <QTemporaryDir>
#include <QWidget>

#include <memory>
#include <thread>

#include "core/base/cancel.h"
#include "core/base/result.h"
#include "core/editing/trial_log.h"
#include "grid/api/grid.h"

class QLabel;
class QPushButton;
class QStackedWidget;

namespace jollyrow {

class ChangeList;
class RecordSheet;

class TryPage final : public QWidget {
    Q_OBJECT
  public:
    explicit TryPage(QWidget* parent = nullptr);
    ~TryPage() override;
    /// Copies the database and opens the design on the copy.
    void begin(const Design& design, const QString& title, const QString& databasePath);
    /// Forgets the copy.
    void end();
    Grid& grid() { return *grid_; }
    bool isReady() const { return ready_; }

  Q_SIGNALS:
    void backToBuild();
    /// What was tried has been written into the database itself.
    void kept();

  protected:
    void paintEvent(QPaintEvent* event) override;

  private:
    QWidget* makeRibbon();
    QLayout* makeHead();
    QLayout* makeWorkplace();
    void connectButtons();
    void connectGrid();
    void copied(const Result<void>& result);
    Result<void> openCopy();
    void keep();
    void keepNow();
    void showKeeping();
    void setWorkable(bool workable);
    void refresh();
    QLabel* ribbon_;
    QLabel* title_;
    QLabel* subtitle_;
    QLabel* count_;
    QLabel* foot_;
    struct Buttons {
        QPushButton* back;
        QPushButton* newRecord;
        QPushButton* keep;
        QPushButton* again;
        QPushButton* changes;
    } buttons_;
    QStackedWidget* side_;
    RecordSheet* record_ = nullptr;
    ChangeList* changeList_ = nullptr;
    Grid* grid_;
    Design design_;
    QString copyPath_, realPath_, formTitle_;
    std::shared_ptr<TrialLog> log_ = std::make_shared<TrialLog>();
    bool keeping_ = false;
    bool keepWanted_ = false;  ///< as soon as what is being saved has an answer
    std::unique_ptr<QTemporaryDir> scratch_;
    std::thread copier_;
    Cancel cancel_;
    bool ready_ = false;
    int saved_ = 0;
    QString problem_;
};

}  // namespace jollyrow
