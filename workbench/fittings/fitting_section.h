// SPDX-License-Identifier: MIT
#pragma once
// The parts that pages of Fittings are made of: a titled section with a hairline above it, quiet words, a box for
// pixels.

#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QSpinBox>
#include <QVBoxLayout>
#include <QWidget>

namespace jollyrow {

class Section final : public QWidget {
  public:
    Section(const QString& title, QWidget* parent);
    QHBoxLayout* row();
    QVBoxLayout* body() { return body_; }
    /// Words at the right end of the title.
    void setNote(const QString& note);

  protected:
    void paintEvent(QPaintEvent* event) override;

  private:
    QVBoxLayout* body_;
    QLabel* note_;
};

QLabel* quietLabel(const QString& text, QWidget* parent);
/// What is to be put right, in red; hidden until there is something.
QLabel* problemLabel(QWidget* parent);
QSpinBox* pixelsBox(int least, int most, QWidget* parent);
QLineEdit* smallEntry(const QString& accessibleName, int widthPx, QWidget* parent);
/// Sets a text without moving the cursor of an entry that has it already.
void fillEntry(QLineEdit* entry, const QString& text);
/// A page of sections that scrolls when they pile up.
QWidget* scrollingPage(QWidget* content, QWidget* parent);

}  // namespace jollyrow
