// SPDX-License-Identifier: MIT
#pragma once
// PartFittings: the settings of one part of a face, by its kind. Sends changes; shows what it is given.

#include <QWidget>

#include <functional>

#include "core/design/face_edit.h"

class QVBoxLayout;
class QHBoxLayout;

namespace jollyrow {

class Grid;
class PickBox;

class PartFittings final : public QWidget {
    Q_OBJECT
  public:
    using Change = std::function<void(FacePart&)>;
    PartFittings(Grid& grid, std::string ownField, QWidget* parent);
    /// Builds the settings anew for another part or kind; else fills in what is not being typed in.
    void setPart(const Design& design, const FacePath& path, const FacePart& part, bool isShown);

  Q_SIGNALS:
    /// `joins`: typed on in the same entry.
    void changed(const jollyrow::PartFittings::Change& change, const QString& label, bool joins);
    void removeWanted();

  private:
    void build();
    void addHead(QVBoxLayout& to);
    void addSays(QVBoxLayout& to);
    void addField(QVBoxLayout& to);
    void addText(QVBoxLayout& to);
    void addBar(QVBoxLayout& to);
    void addTrend(QVBoxLayout& to);
    void addPicture(QVBoxLayout& to);
    void addRating(QVBoxLayout& to);
    void addName(QVBoxLayout& to);
    void addOpens(QVBoxLayout& to);
    void addFormat(QVBoxLayout& to);
    void addLines(QHBoxLayout& row);
    class QDoubleSpinBox* numberBox(double value, const QString& name);
    void addWidth(QVBoxLayout& to);
    void addRules(QVBoxLayout& to);
    void addRule(QVBoxLayout& to, std::size_t index);
    QWidget* shapeBox(std::size_t index);
    void addWords(QVBoxLayout& to, std::size_t index);
    void addCondition(QVBoxLayout& to);
    void addToolTip(QVBoxLayout& to);
    void changeRule(std::size_t index, std::function<void(FaceRule&)> act, const QString& label, bool joins = false);
    PickBox* fieldBox(const QString& first, const std::string& current);
    QHBoxLayout* line(QVBoxLayout& to, const QString& words);
    void take(Change change, const QString& label, bool joins = false);

    Grid& grid_;
    std::string ownField_;
    Design design_;
    FacePath path_;
    FacePart part_;
    FacePart built_;  ///< that the controls were made for
    bool isShown_ = true;
    QWidget* content_ = nullptr;
    bool isTyping_ = false;  ///< a change of ours is on its way: nothing is built anew under the cursor
};

}  // namespace jollyrow
