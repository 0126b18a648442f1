// SPDX-License-Identifier: MIT
#pragma once
// Document: the design being worked on, where it is kept, what it is bound to, and the steps that can be undone.
// Knows no widget. Confined to the window's thread.

#include <QObject>
#include <QString>

#include <functional>
#include <variant>
#include <vector>

#include "core/base/result.h"
#include "core/columns/table.h"
#include "core/design/design.h"
#include "core/design/finding.h"
#include "core/design/history.h"
#include "core/sources/source.h"

#include "workbench/app/design_change.h"

namespace jollyrow {

/// The tables and views of a source that is at `path`, read while the window goes on (patiently).
Result<std::vector<TableSummary>> tablesOf(const Source& source, const QString& path);

/// Steps of one gesture (typing a heading) join into one undo step.
enum class Joining { OwnStep, WithLastOfSameName };

class Document final : public QObject {
    Q_OBJECT
  public:
    /// Binds to a table (or, when `query` is not empty, a SELECT) with the design it gets by itself.
    Result<void> openDatabase(const QString& path, const QString& table, const QString& query = {});
    /// Binds the design that is open to another table or SELECT of its database, as a step that can be undone.
    Result<void> rebind(const QString& table, const QString& query);
    Result<void> openDesign(const QString& path);
    Result<void> save(const QString& path);

    bool isOpen() const { return open_; }
    const Design& design() const { return design_; }
    const QString& designPath() const { return designPath_; }
    const QString& databasePath() const { return databasePath_; }
    /// What the design file itself had wrong.
    const std::vector<Finding>& fileFindings() const { return fileFindings_; }
    QString title() const;
    /// The design differs from what is on disk.
    bool isDirty() const { return open_ && (!saved_ || design_ != savedDesign_); }

    /// Takes the next design as a step named `label`.
    void apply(const Design& next, const QString& label, Joining joining = Joining::OwnStep);
    /// The same for what an editor makes of the present design.
    void change(const DesignChange& change, const QString& label, Joining joining = Joining::WithLastOfSameName);
    /// Records were edited, inserted or deleted on the grid, as a step of its own: it stands between those of the
    /// design.
    void noteRecords(const QString& label);
    enum class RecordStep {
        Carried,  ///< taken back or done again, or the grid has said why there was nothing to do
        NotNow,   ///< it stays the next one
        Gone,     ///< nobody knows of it any more, e.g. after binding to another table
    };
    /// What takes the grid's last step back, or does it again.
    void setRecordSteps(std::function<RecordStep(bool forward)> carry) { carryRecords_ = std::move(carry); }

    /// Empty when there is nothing to undo or redo.
    QString undoLabel() const;
    QString redoLabel() const;
    void undo();
    void redo();

  Q_SIGNALS:
    void opened();
    /// The design is another one; views take it over.
    void designChanged();
    /// Undo or redo came to edits of records that are not known any more; they stay as they are.
    void recordsForgotten(const QString& label);
    /// Title, dirtiness or undo labels may have changed.
    void stateChanged();

  private:
    struct BeforeAndAfter {
        Design before, after;
    };
    struct Records {};  ///< the grid knows which
    using Change = std::variant<BeforeAndAfter, Records>;
    void begin(Design design, const QString& designPath, const QString& databasePath, bool saved);
    void step(bool forward);

    bool open_ = false;
    bool saved_ = false;
    Design design_;
    Design savedDesign_;
    QString designPath_, databasePath_;
    std::vector<Finding> fileFindings_;
    History<Change> history_;
    std::function<RecordStep(bool forward)> carryRecords_;
};

}  // namespace jollyrow
