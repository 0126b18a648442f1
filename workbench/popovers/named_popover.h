// SPDX-License-Identifier: MIT
#pragma once
// Popovers for what a design names and uses in several places: parameters, and operators of its own. Each thing is a
// card; changes are taken at once, as steps of the document.

#include "core/design/design.h"
#include "workbench/app/design_change.h"
#include "workbench/popovers/popover.h"

class QComboBox;
class QLineEdit;
class QVBoxLayout;

namespace jollyrow {

class RuleEntry;
class Session;

class NamedPopover : public Popover {
    Q_OBJECT
  public:
    /// After undo or redo.
    void setDesign(const Design& design);

  Q_SIGNALS:
    void changed(const jollyrow::DesignChange& change, const QString& label);

  protected:
    NamedPopover(const QString& title, const QString& words, QWidget* window, const Design& design, Session& session);
    virtual void fill(QVBoxLayout& list) = 0;
    /// How many things there are, to know when cards are made anew.
    virtual std::size_t count(const Design& design) const = 0;
    void rebuild();
    void take(const Design& next, const QString& label);
    /// Takes and makes the cards anew, once the widget that asked is out of its handler.
    void takeLater(const Design& next, const QString& label);
    QWidget* cards() { return cards_; }
    void showProblem(const QString& problem);

    Design design_;
    Session& session_;

  private:
    QWidget* cards_;
    class QLabel* problem_;
};

class ParametersPopover final : public NamedPopover {
    Q_OBJECT
  public:
    ParametersPopover(QWidget* window, const Design& design, Session& session);

  protected:
    void fill(QVBoxLayout& list) override;
    std::size_t count(const Design& design) const override { return design.parameters.size(); }

  private:
    struct Entries {
        QLineEdit *heading, *name;
        QComboBox* type;
        QLineEdit* value;
    };
    void addCard(QVBoxLayout& list, std::size_t index);
    QWidget* likeBox(QWidget* card, std::size_t index);
    void connectParameter(const Entries& of, std::size_t index);
};

class OperatorsPopover final : public NamedPopover {
    Q_OBJECT
  public:
    OperatorsPopover(QWidget* window, const Design& design, Session& session);

  protected:
    void fill(QVBoxLayout& list) override;
    std::size_t count(const Design& design) const override { return design.operators.size(); }

  private:
    struct Entries {
        QLineEdit *title, *arguments;
        QComboBox* offered;
        RuleEntry* rule;
    };
    void addCard(QVBoxLayout& list, std::size_t index);
    QComboBox* offerBox(const OperatorDesign& known, QWidget* card);
    void connectOperator(const Entries& of, std::size_t index);
};

}  // namespace jollyrow
