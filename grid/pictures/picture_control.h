// SPDX-License-Identifier: MIT
#pragma once
// PictureControl: what a person does with the picture of a cell: sees it larger, copies it, saves it to a file; loads
// one from a file, pastes or drops one, takes it out, which are edits like any other. What comes from outside is
// decoded before it is taken: a file that is no picture is refused with words.

#include <QMimeData>
#include <QPointer>

#include <optional>

#include "grid/editors/editor_host.h"
#include "grid/faces/part_presses.h"
#include "grid/pictures/picture_panel.h"

namespace jollyrow {

class PictureControl final {
  public:
    PictureControl(GridContext& context, ShownRows& rows, BodyGeometry& body, PictureShelf& shelf, EditorHost& editors)
        : context_(context), rows_(rows), body_(body), shelf_(shelf), editors_(editors) {}

    /// The field whose picture a column shows; nullopt without one.
    std::optional<FieldIndex> pictureIn(int column) const;
    /// Can a picture be put into the cells of a column?
    bool takes(int column) const;
    /// Opens the panel on a cell with a picture. False when it is none.
    bool open(CellPlace place);
    bool isOpen() const { return panel_ && panel_->isVisible(); }
    PicturePanel* panel() const { return panel_; }
    void close();
    /// While the pointer rests on a picture. False when nothing is there to be enlarged.
    bool enlarge(CellPlace place, QPoint position, const PartPresses& presses);
    void hideCard();
    /// The pointer has moved: what it enlarged goes with the cell.
    void pointerAt(QPoint position) {
        if (!cardFor_.contains(position)) hideCard();
    }

    /// Of one cell; nothing happens where there is no picture.
    void copy(CellPlace place);
    void save(CellPlace place);
    /// Asks for a file.
    void load(CellPlace place);
    void empty(CellPlace place);
    /// Takes what is on the clipboard, or says what is wrong with it. False when it is no picture at all.
    bool paste(CellPlace place);
    /// Is it a picture, as far as can be told, and can any column take one?
    bool mayTake(const QMimeData& data) const;
    bool accepts(const QMimeData& data, std::optional<CellPlace> place) const;
    void drop(CellPlace place, const QMimeData& data);
    /// From a file whose name is known.
    void loadFrom(CellPlace place, const QString& path);
    void saveTo(CellPlace place, const QString& path);
    /// The cells have moved, or another design has come.
    void moved();
    void scrolled();
    /// A picture that was asked for has come.
    void arrived();

  private:
    /// A cell over the time that a file or a decoder takes.
    struct Target {
        RowRef record;
        std::string field;
        std::string file = {};  ///< that it comes from, which a column of file names takes over
    };
    Target targetAt(CellPlace place) const;
    bool hasPicture(CellPlace place) const;
    void readInto(const Target& target, const QString& path);
    /// Decodes first.
    void take(const Target& target, const Result<std::string>& bytes);
    void put(const Target& target, Value value);
    bool takeData(CellPlace place, const QMimeData& data);
    void act(PicturePanel::Action action);

    GridContext& context_;
    ShownRows& rows_;
    BodyGeometry& body_;
    PictureShelf& shelf_;
    EditorHost& editors_;
    QPointer<PicturePanel> panel_;
    QPointer<PictureCard> card_;
    CellPlace place_;
    RowRef opened_;  ///< whose panel is open
    QRect cardFor_;
};

}  // namespace jollyrow
