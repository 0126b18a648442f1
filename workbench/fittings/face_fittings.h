// SPDX-License-Identifier: MIT
#pragma once
// FaceFittings: how the cells of a column look, as tiles drawn with the column's own value: the face it has, and the
// ready ones that suit its type. A click gives it that face; the editor composes another.

#include <QWidget>

#include <vector>

#include "core/design/face_edit.h"
#include "workbench/fittings/fittings.h"

namespace jollyrow {

class FaceTile;

class FaceFittings final : public QWidget {
    Q_OBJECT
  public:
    explicit FaceFittings(QWidget* parent);
    void setContent(const FittingsContent& content);
    /// The tile of a ready face, of another column's face by its name, or of the own one; null when it is not offered.
    QWidget* tile(const QString& words) const;

  Q_SIGNALS:
    void changed(const jollyrow::Design& next, const QString& label, jollyrow::Joining joining);
    void composeWanted(const QString& field);

  private:
    void build();
    void addTile(const QString& words, const Design& with, bool isOn, const QString& label);
    std::vector<std::string> choicesOf(FieldIndex index) const;

    FittingsContent content_;
    class Section* section_;
    QWidget* tiles_ = nullptr;
    std::vector<FaceTile*> made_;
};

}  // namespace jollyrow
