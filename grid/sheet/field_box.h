// SPDX-License-Identifier: MIT
#pragma once
// FieldBox: one field of a record sheet: its heading, its value as the grid shows it, a mark and the old value while it
// is changed, what is wrong with it; and the editor that opens in it by click, F2, Enter or typing.

#include <QPointer>
#include <QWidget>

#include <functional>

#include "core/design/cell_text.h"
#include "core/session/session.h"
#include "grid/editors/editor.h"

class QLabel;

namespace jollyrow {

class Grid;

class FieldBox final : public QWidget {
    Q_OBJECT
  public:
    /// `column` is an index into the plan's columns of the grid's session.
    FieldBox(Grid& grid, int column, QWidget* parent);
    const std::string& field() const { return field_; }
    int column() const { return column_; }
    /// Long texts take the whole width of the sheet.
    bool isWide() const { return wide_; }
    /// Shows a record's value; kNoRow shows nothing.
    void show(SourceRow row);
    /// False when what stands in the editor is wrong; it stays open then.
    bool commit();
    bool isEditing() const { return editor_; }
    Editor* editor() const { return editor_; }
    bool begin(const QString& typed);
    QString message() const;
    QString shownText() const { return text_; }

    QSize sizeHint() const override;
    QSize minimumSizeHint() const override { return sizeHint(); }

  Q_SIGNALS:
    /// The keys should go on to the next field, or back.
    void left(int step);

  protected:
    void paintEvent(QPaintEvent* event) override;
    void resizeEvent(QResizeEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;
    void focusInEvent(QFocusEvent* event) override;
    void focusOutEvent(QFocusEvent* event) override;

  private:
    void paint(QPainter& painter);
    const PlannedColumn* planned() const;
    QRect valueRect() const;
    void close();
    void write(const Entered& entered);
    void refuse(const QString& message, bool isWarning);
    void setMessage(const QString& message);
    bool canEdit() const;

    Grid& grid_;
    int column_;
    std::string field_;
    bool wide_ = false;
    SourceRow row_ = kNoRow;
    QString heading_, text_, was_, message_;
    bool isEmpty_ = true, isChecked_ = false, isBoolean_ = false;
    CellMark mark_ = CellMark::None;
    QPointer<Editor> editor_;
    QLabel* below_;
    std::string overridden_;
};

}  // namespace jollyrow
