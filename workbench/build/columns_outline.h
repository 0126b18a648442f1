// SPDX-License-Identifier: MIT
#pragma once
// ColumnsOutline: the columns of the design under their header tiers, and below them the fields of the source that the
// grid does not use, with those of other tables that foreign keys lead to. Click selects (Ctrl and Shift several), the
// eye shows or hides, dragging orders and nests. Sends intents; changes nothing.

#include <QAbstractScrollArea>

#include <functional>
#include <optional>
#include <set>
#include <vector>

#include "core/base/result.h"
#include "core/columns/schema.h"
#include "core/design/tier_tree.h"

namespace jollyrow {

class ColumnsOutline final : public QAbstractScrollArea {
    Q_OBJECT
  public:
    /// Reads another table's schema, when somebody looks into it.
    using SchemaOf = std::function<Result<TableSchema>(const std::string& table)>;

    explicit ColumnsOutline(QWidget* parent = nullptr);
    void setContent(const Design& design, const TableSchema& schema, SchemaOf schemaOf);
    void setSelected(const std::vector<QString>& fields, const std::optional<QString>& tier);
    /// Where a row stands in the viewport, for tests. Fields not used are named like columns, links "vessel →".
    QRect rowRect(const QString& field) const;
    QRect eyeRect(const QString& field) const;
    QRect tierRowRect(const QString& name) const;
    QRect addRowRect() const;

  Q_SIGNALS:
    void selected(const QString& field, Qt::KeyboardModifiers modifiers);
    void tierSelected(const QString& name);
    void shownToggled(const QString& field);
    void tierShownToggled(const QString& name, bool shown);
    /// Dragged or moved by keys.
    void moved(const std::vector<std::string>& fields, const jollyrow::Landing& to);
    void tierMoved(const QString& name, const jollyrow::Landing& to);
    void added(const QString& field);
    /// The line that adds a computed column was clicked.
    void computedWanted();
    /// Delete: out of the design, back among the fields not in the grid.
    void removed(const std::vector<std::string>& fields);

  protected:
    void paintEvent(QPaintEvent* event) override;
    void resizeEvent(QResizeEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;
    bool viewportEvent(QEvent* event) override;
    void scrollContentsBy(int dx, int dy) override;

  private:
    enum class Kind { Title, Tier, Column, Add, UnusedTitle, Unused, Link };
    struct Row {
        Kind kind = Kind::Column;
        QString id;  ///< field, tier, or path of a link
        QString text, note;
        int icon = 0;
        int indent = 0;
        bool shown = true;
        bool isOpen = true;      ///< of a tier or link
        bool isBeneath = false;  ///< of a column on a lower line
        int y = 0, height = 23;
    };
    /// Where a dragged row would go, and how that is shown.
    struct Drop {
        Landing to;
        int markY = 0;
        int indent = 0;
        int intoRow = -1;  ///< a tier to be marked whole
    };
    void build();
    void addColumns();
    /// Those of a column's tiers that begin with it; true when one of them is closed.
    bool addTiers(const std::vector<std::string>& path, std::size_t firstNew);
    QString noteOf(const ColumnDesign& column, bool isPinned) const;
    void addUnused(const TableSchema& schema, const std::string& path, int indent);
    void relayout();
    int rowAt(QPoint position) const;
    int rowOf(Kind kind, const QString& id) const;
    QRect rectOf(const Row& row) const;
    QRect eyeOf(const Row& row) const;
    void paintRow(QPainter& painter, const Row& row, bool hovered);
    void paintTitle(QPainter& painter, const Row& row);
    std::optional<Drop> dropAt(QPoint position) const;
    void sendMove(int row, const Landing& to);
    void moveByKey(int step);
    bool actAt(const Row& row, const QPoint& at);
    void selectNext(int at, int step, bool adds);
    bool key(const QKeyEvent& key);
    bool isSelected(const Row& row) const;
    std::string firstUnder(const std::string& tier) const;
    std::string behind(const std::string& field, const std::string& tier) const;

    Design design_;
    TableSchema schema_;
    SchemaOf schemaOf_;
    std::vector<Row> rows_;
    std::set<QString> closedTiers_, openLinks_;
    std::vector<QString> selected_;
    std::optional<QString> selectedTier_;
    int hovered_ = -1;
    int pressed_ = -1;
    QPoint pressedAt_;
    bool dragging_ = false;
    std::optional<Drop> drop_;
};

}  // namespace jollyrow
