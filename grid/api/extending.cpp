// SPDX-License-Identifier: MIT
// A grid's functions of the application. Covered by tests/grid/tst_extending.cpp.
#include "grid/api/extending.h"

#include <QPointer>
#include <QTimer>

#include <algorithm>

#include "grid/api/grid.h"
#include "grid/inside/grid_private.h"

namespace jollyrow {
namespace {

EditedRecord byNames(const ReadRecord& read) {
    return [&read](const QString& field) { return read(field.toStdString()); };
}

/// What has not been answered by then is answered with a no.
void endAt(Grid& grid, std::chrono::milliseconds limit,
           const std::shared_ptr<std::function<void(std::string)>>& answer) {
    auto* timer = new QTimer(&grid);
    timer->setSingleShot(true);
    QObject::connect(timer, &QTimer::timeout, &grid, [answer, timer] {
        timer->deleteLater();
        if (*answer) std::exchange(*answer, nullptr)(Grid::tr("This could not be checked in time.").toStdString());
    });
    timer->start(limit);
}

SaveRequest requestOf(const RecordWrite& write) {
    SaveRequest request;
    request.change = write.change;
    request.key = write.key;
    for (const FieldChange& change : write.changes) {
        const QString name = QString::fromStdString(write.schema->field(change.field).name);
        if (write.change != RecordChange::Delete) request.values[name] = change.after;
        if (write.change != RecordChange::Insert) request.before[name] = change.before;
    }
    return request;
}

}  // namespace

void SaveReply::stored(const std::map<std::size_t, RecordKey>& keys) const {
    std::vector<StoredRecord> records(keys.empty() ? 0 : keys.rbegin()->first + 1);
    for (const auto& [place, key] : keys) records[place].key = key;
    answer_.stored(std::move(records));
}

void SaveReply::refuse(const QString& message, const QString& field, std::size_t record) const {
    const auto index = field.isEmpty() ? std::nullopt : schema_->find(field.toStdString());
    answer_.refuse(message.toStdString(), index ? std::vector{*index} : std::vector<FieldIndex>{}, record);
}

void Grid::setEditor(const QString& field, EditorFactory factory) {
    d->context.setEditor(field.toStdString(), std::move(factory));
}

Editor* Grid::newEditor(const PlannedColumn& column, QWidget* parent) { return d->context.makeEditor(column, parent); }

void Grid::setCheck(const QString& name, const QString& field, std::function<QString(const EditedRecord&)> check,
                    CheckStrength strength) {
    RecordCheck made;
    made.name = name.toStdString();
    made.field = field.toStdString();
    made.warning = strength == CheckStrength::Warning;
    if (check)
        made.judge = [check = std::move(check)](const ReadRecord& read) { return check(byNames(read)).toStdString(); };
    addCheck(std::move(made));
}

void Grid::setCheckLater(const QString& name, const QString& field,
                         std::function<void(const EditedRecord&, const CheckAnswer&)> ask,
                         std::chrono::milliseconds limit) {
    RecordCheck made;
    made.name = name.toStdString();
    made.field = field.toStdString();
    if (ask)
        made.ask = [ask = std::move(ask), limit, grid = QPointer<Grid>(this)](const ReadRecord& read,
                                                                              std::function<void(std::string)> answer) {
            const auto once = std::make_shared<std::function<void(std::string)>>(std::move(answer));
            if (grid) endAt(*grid, limit, once);
            ask(byNames(read), [once](const QString& problem) {
                if (*once) std::exchange(*once, nullptr)(problem.toStdString());
            });
        };
    addCheck(std::move(made));
}

/// In the place of one of the same name; one without a function takes it away.
void Grid::addCheck(RecordCheck check) {
    std::vector<RecordCheck>& all = d->checks;
    const auto known = std::find_if(all.begin(), all.end(), [&](const auto& one) { return one.name == check.name; });
    const bool isNone = !check.judge && !check.ask;
    if (known == all.end() && !isNone)
        all.push_back(std::move(check));
    else if (known != all.end() && isNone)
        all.erase(known);
    else if (known != all.end())
        *known = std::move(check);
    d->context.session().checks().set(all);
}

void Grid::setSaver(SaveFunction saver) {
    if (!saver) return d->context.session().records().setSaver({});
    d->context.session().records().setSaver([saver = std::move(saver)](std::vector<RecordWrite> writes, SaveAnswer answer) {
        std::vector<SaveRequest> requests;
        for (const RecordWrite& write : writes) requests.push_back(requestOf(write));
        saver(requests, SaveReply(std::move(answer), writes.empty() ? SharedSchema() : writes.front().schema));
    });
}

Result<int> Grid::saveTogether(const std::vector<Grid*>& grids) {
    std::vector<Session*> sessions;
    for (Grid* grid : grids)
        if (!grid->d->editors.mayLeave())
            return Error{ErrorCode::InvalidInput, "What is being typed is to be put right first. Nothing was saved."};
    for (Grid* grid : grids) sessions.push_back(&grid->session());
    const auto saved = Session::saveTogether(sessions);
    if (!saved) return saved.error();
    return static_cast<int>(*saved);
}

}  // namespace jollyrow
