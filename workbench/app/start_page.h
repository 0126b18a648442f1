// SPDX-License-Identifier: MIT
#pragma once
// StartPage: what to begin with: a database, a design, a recent one, the boatyard demo.

#include <QWidget>

class QVBoxLayout;
class QLabel;

namespace jollyrow {

class StartPage final : public QWidget {
    Q_OBJECT
  public:
    explicit StartPage(QWidget* parent = nullptr);
    void setRecent(const QStringList& paths);
    /// Why the last attempt to open something failed.
    void showProblem(const QString& message);

  Q_SIGNALS:
    void openDatabase();
    void openDesign();
    void openDemo();
    void openPath(const QString& path);

  protected:
    void paintEvent(QPaintEvent* event) override;

  private:
    QVBoxLayout* recent_;
    QLabel* problem_;
    QLabel* recentTitle_;
};

}  // namespace jollyrow
