// SPDX-License-Identifier: MIT
#pragma once
// StatusLine: findings, unsaved edits, what is selected, and the progress of long work with a way to stop it.

#include <QWidget>

class QLabel;
class QProgressBar;
class QPushButton;
class QToolButton;

namespace jollyrow {

class StatusLine final : public QWidget {
    Q_OBJECT
  public:
    explicit StatusLine(QWidget* parent = nullptr);
    void setFindings(int count);
    void setUnsaved(std::size_t edits);
    void setSelection(const QString& text);
    void setMemory(const QString& text);
    /// `share` 0..1, or negative when how much is left is not known.
    void setProgress(const QString& text, double share);
    void endProgress();
    /// Shown for some seconds.
    void say(const QString& text, bool isError = false);

  Q_SIGNALS:
    void findingsClicked();
    void cancelClicked();

  protected:
    void paintEvent(QPaintEvent* event) override;

  private:
    QToolButton* findings_;
    QLabel* unsaved_;
    QLabel* said_;
    QLabel* selection_;
    QLabel* memory_;
    QLabel* progressText_;
    QProgressBar* progress_;
    QToolButton* cancel_;
    class QTimer* saidTimer_;
};

}  // namespace jollyrow
