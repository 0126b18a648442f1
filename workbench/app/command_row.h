// SPDX-License-Identifier: MIT
#pragma once
// CommandRow: the slim row at the top: mark, name, Build | Try, undo and redo, Find an action.

#include <QWidget>

class QLabel;
class QToolButton;
class QPushButton;

namespace jollyrow {

class Document;
class SegmentedSwitch;

class CommandRow final : public QWidget {
    Q_OBJECT
  public:
    explicit CommandRow(QWidget* parent = nullptr);
    void showState(const Document& document);
    void setScreen(int index);
    QRect finderRect() const;

  Q_SIGNALS:
    void screenChosen(int index);
    void undoClicked();
    void redoClicked();
    void finderClicked();
    void saveClicked();
    void homeClicked();

  protected:
    void paintEvent(QPaintEvent* event) override;
    void resizeEvent(QResizeEvent* event) override;

  private:
    QToolButton* mark_;
    QLabel* title_;
    QLabel* state_;
    QToolButton* save_;
    SegmentedSwitch* screens_;
    QToolButton* undo_;
    QToolButton* redo_;
    QPushButton* finder_;
};

}  // namespace jollyrow
