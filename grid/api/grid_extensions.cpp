// SPDX-License-Identifier: MIT
// Covered by tests/grid/tst_extending.cpp.
#include "grid/api/grid_extensions.h"

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

void GridExtensions::setEditor(const QString& field, EditorFactory factory) {
    d_->context.setEditor(field.toStdString(), std::move(factory));
}

void GridExtensions::setCheck(const QString& name, const QString& field,
                              std::function<QString(const EditedRecord&)> check, CheckStrength strength) {
    RecordCheck made;
    made.name = name.toStdString();
    made.field = field.toStdString();
    made.warning = strength == CheckStrength::Warning;
    if (check)
        made.judge = [check = std::move(check)](const ReadRecord& read) { return check(byNames(read)).toStdString(); };
    addCheck(std::move(made));
}

void GridExtensions::setCheckLater(const QString& name, const QString& field,
                                   std::function<void(const EditedRecord&, const CheckAnswer&)> ask,
                                   std::chrono::milliseconds limit) {
    RecordCheck made;
    made.name = name.toStdString();
    made.field = field.toStdString();
    if (ask)
        made.ask = [ask = std::move(ask), limit, grid = QPointer<Grid>(&d_->grid)](
                       const ReadRecord& read, std::function<void(std::string)> answer) {
            const auto once = std::make_shared<std::function<void(std::string)>>(std::move(answer));
            if (grid) endAt(*grid, limit, once);
            ask(byNames(read), [once](const QString& problem) {
                if (*once) std::exchange(*once, nullptr)(problem.toStdString());
            });
        };
    addCheck(std::move(made));
}

/// In the place of one of the same name; one without a function takes it away.
void GridExtensions::addCheck(RecordCheck check) {
    std::vector<RecordCheck>& all = d_->checks;
    const auto known = std::find_if(all.begin(), all.end(), [&](const auto& one) { return one.name == check.name; });
    const bool isNone = !check.judge && !check.ask;
    if (known == all.end() && !isNone)
        all.push_back(std::move(check));
    else if (known != all.end() && isNone)
        all.erase(known);
    else if (known != all.end())
        *known = std::move(check);
    d_->context.session().checks().set(all);
}

void GridExtensions::setSaver(SaveFunction saver) {
    if (!saver) return d_->context.session().records().setSaver({});
    d_->context.session().records().setSaver(
        [saver = std::move(saver)](std::vector<RecordWrite> writes, SaveAnswer answer) {
            std::vector<SaveRequest> requests;
            for (const RecordWrite& write : writes) requests.push_back(requestOf(write));
            saver(requests, SaveReply(std::move(answer), writes.empty() ? SharedSchema() : writes.front().schema));
        });
}

}  // namespace jollyrow
