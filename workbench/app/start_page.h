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

    /// The choice that opens a server, in this page's coordinates.
    QRect serverPlace() const { return server_->geometry(); }

  Q_SIGNALS:
    void openDatabase();
    void openServer();
    void openDesign();
    void openDemo();
    void openPath(const QString& path);

  protected:
    void paintEvent(QPaintEvent* event) override;

  private:
    QVBoxLayout* recent_;
    QWidget* server_ = nullptr;
    QLabel* problem_;
    QLabel* recentTitle_;
};

}  // namespace jollyrow
