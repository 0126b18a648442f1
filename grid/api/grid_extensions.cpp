// SPDX-License-Identifier: MIT
// Covered by tests/grid/tst_extending.cpp.
#include "grid/api/grid_extensions.h"

#include <fmt/format.h>
#include <QPointer>
#include <QTimer>

#include <algorithm>
#include <exception>
#include <optional>

#include "core/base/near_name.h"
#include "core/design/operators.h"
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

namespace {

/// What the application throws must not end its worker.
template <class Call>
Result<RuleValue> guarded(const std::string& name, const Call& call) {
    try {
        return call();
    } catch (const std::exception& thrown) {
        return Error{ErrorCode::InvalidInput, fmt::format("{} failed: {}", name, thrown.what())};
    } catch (...) {
        return Error{ErrorCode::InvalidInput, fmt::format("{} failed.", name)};
    }
}

class GuardedState final : public AggregateState {
  public:
    GuardedState(std::string name, const std::function<std::unique_ptr<AggregateState>()>& begin)
        : name_(std::move(name)) {
        attempt([&] { state_ = begin(); });
        if (!failure_ && !state_) failure_ = Error{ErrorCode::InvalidInput, fmt::format("{} failed.", name_)};
    }
    void add(const RuleValue& value) override {
        attempt([&] { state_->add(value); });
    }
    void merge(const AggregateState& other) override {
        const auto& from = static_cast<const GuardedState&>(other);
        if (from.failure_)
            failure_ = from.failure_;
        else
            attempt([&] { state_->merge(*from.state_); });
    }
    Result<RuleValue> finish() const override {
        if (failure_) return *failure_;
        return guarded(name_, [&] { return state_->finish(); });
    }

  private:
    template <class Step>
    void attempt(const Step& step) {
        if (failure_) return;
        const auto done = guarded(name_, [&]() -> Result<RuleValue> { return step(), RuleValue(true); });
        if (!done) failure_ = done.error();
    }

    std::string name_;
    std::unique_ptr<AggregateState> state_;
    std::optional<Error> failure_;
};

/// Another list with this one in it, in the place of one of the same name.
template <class Thing>
void put(std::vector<std::shared_ptr<const Thing>>& all, Thing thing) {
    std::erase_if(all, [&](const auto& known) { return sameName(known->name, thing.name); });
    all.push_back(std::make_shared<const Thing>(std::move(thing)));
}

template <class Change>
void changeRegistered(Session& session, const Change& change) {
    auto next =
        session.registered() ? std::make_shared<Registered>(*session.registered()) : std::make_shared<Registered>();
    change(*next);
    session.setRegistered(std::move(next));
}

}  // namespace

void GridExtensions::registerFunction(ExternalFunction function) {
    function.call = [name = function.name, call = std::move(function.call)](std::span<const RuleValue> arguments) {
        return guarded(name, [&] { return call(arguments); });
    };
    changeRegistered(d_->context.session(), [&](Registered& all) { put(all.functions, std::move(function)); });
}

void GridExtensions::registerAggregate(ExternalAggregate aggregate) {
    aggregate.begin = [name = aggregate.name, begin = std::move(aggregate.begin)]() -> std::unique_ptr<AggregateState> {
        return std::make_unique<GuardedState>(name, begin);
    };
    changeRegistered(d_->context.session(), [&](Registered& all) { put(all.aggregates, std::move(aggregate)); });
}

void GridExtensions::registerComparator(ValueComparator comparator) {
    comparator.compare = [compare = std::move(comparator.compare)](const Value& a, const Value& b) {
        try {
            return compare(a, b);
        } catch (...) {
            return 0;
        }
    };
    changeRegistered(d_->context.session(), [&](Registered& all) { put(all.comparators, std::move(comparator)); });
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
