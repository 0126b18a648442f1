// SPDX-License-Identifier: MIT
#pragma once
// RuleEntry: an expression as it is typed: words coloured by kind, completion of columns and functions, what is wrong
// underlined, and beneath it the type it gives or what to put right. Says each sound expression at once.

#include <QPlainTextEdit>
#include <QWidget>

#include <functional>
#include <optional>

#include "core/rules/program.h"

class QLabel;
class QCompleter;

namespace jollyrow {

class RuleEntry final : public QWidget {
    Q_OBJECT
  public:
    using Compile = std::function<Result<std::shared_ptr<const Program>>(const std::string&)>;
    /// `names`: columns, functions and operators to complete.
    RuleEntry(QStringList names, Compile compile, QWidget* parent = nullptr);
    /// More names are known than at first: the rule is looked at anew with them.
    void addNames(const QStringList& names);
    void setText(const QString& text);
    QString text() const;
    /// nullptr while the text is no sound rule.
    std::shared_ptr<const Program> program() const { return program_; }
    QPlainTextEdit& edit() { return *edit_; }
    QString message() const;
    /// More words beside the type: "12 records".
    void setNote(const QString& note);

  Q_SIGNALS:
    /// The text is another one and sound.
    void changed(const QString& text);

  protected:
    bool eventFilter(QObject* watched, QEvent* event) override;
    void paintEvent(QPaintEvent* event) override;

  private:
    void fitLines();
    void check();
    void showMessage();
    void complete(bool asked);
    void offer(const QString& shown, const QString& word, const QString& help = {});
    void insertCompletion(const QString& word);
    bool keyAtOffers(int key);
    QString wordBefore() const;

    QPlainTextEdit* edit_;
    QLabel* label_;
    QCompleter* completer_;
    Compile compile_;
    std::shared_ptr<const Program> program_;
    std::optional<Error> error_;
    QString note_;
    QString said_;
};

}  // namespace jollyrow
