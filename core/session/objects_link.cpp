// SPDX-License-Identifier: MIT
// Covered by tests/sources/objects_test.cpp and tests/grid/tst_object_grid.cpp.
#include "core/session/objects_link.h"

namespace jollyrow {
namespace {

/// Behind the link, which takes all writes: what is done to objects they tell by themselves.
class ToldStore final : public Store {
  public:
    Result<std::vector<Outcome>> write(std::span<const RecordWrite>, Atomicity, const Cancel&) override {
        return Error{ErrorCode::Io, "The objects are gone."};
    }
    Result<SeenElsewhere> seenElsewhere(const TableSchema&, const std::vector<FieldIndex>&) override {
        return SeenElsewhere{};
    }
};

}  // namespace

ObjectsLink::ObjectsLink(Session& session, Objects& objects, Post post)
    : session_(session), objects_(objects.self()), desk_(std::make_shared<SaverDesk>(post)) {
    // Goes with the link: a save that was asked for before is called for after it.
    const auto linked = std::make_shared<bool>(true);
    link_ =
        objects.link(std::move(post), [this, linked](const std::vector<ElsewhereChange>& changes) { told(changes); });
    desk_->set(
        [this, linked = std::weak_ptr<bool>(linked)](std::vector<RecordWrite> records, const SaveAnswer& answer) {
            if (linked.expired()) return answer.refuse("The objects are gone: there is nothing to save to.");
            write(std::move(records), answer);
        });
}

ObjectsLink::~ObjectsLink() {
    desk_->close();
    if (const auto objects = objects_.lock()) (*objects)->unlink(link_);
}

Result<void> ObjectsLink::open(Design design) {
    const auto objects = objects_.lock();
    if (!objects) return Error{ErrorCode::NotFound, "The objects are gone."};
    return session_.open(std::move(design), (*objects)->source(),
                         SaverDesk::before(desk_, []() -> Result<std::unique_ptr<Store>> {
                             return std::unique_ptr<Store>(std::make_unique<ToldStore>());
                         }));
}

void ObjectsLink::write(std::vector<RecordWrite> records, const SaveAnswer& answer) {
    const auto objects = objects_.lock();
    if (!objects) return answer.refuse("The objects are gone: there is nothing to save to.");
    auto done = (*objects)->write(records, link_);
    if (auto* stored = std::get_if<std::vector<StoredRecord>>(&done)) {
        // A new one may be gone again before the session has heard its number: it looks, then.
        for (std::size_t i = 0; i < records.size(); ++i)
            if (records[i].change == RecordChange::Insert)
                (*objects)->tellAgain(link_, std::get<std::int64_t>((*stored)[i].key.at(0)));
        return answer.stored(std::move(*stored));
    }
    auto& refusal = std::get<Objects::Refusal>(done);
    answer.refuse(std::move(refusal.message), std::move(refusal.fields), refusal.record);
}

/// What cannot be shown in place is read anew, as soon as nothing is being read.
void ObjectsLink::told(const std::vector<ElsewhereChange>& changes) {
    const auto askAgain = [objects = objects_, link = link_](const RecordKey& key) {
        if (const auto there = objects.lock()) (*there)->tellAgain(link, std::get<std::int64_t>(key.at(0)));
    };
    // Whether the load under way has read them before or after is not known: they are looked at again behind it.
    if (session_.isLoading())
        for (const ElsewhereChange& change : changes) whileLoading_.insert(std::get<std::int64_t>(change.key.at(0)));
    const bool isShown = !changes.empty() && session_.elsewhere().take(changes, askAgain);
    if (isShown) return;
    if (session_.isLoading())
        isReloadDue_ = true;
    else
        session_.reload();
}

void ObjectsLink::loaded() {
    if (std::exchange(isReloadDue_, false)) return session_.reload();
    const auto objects = objects_.lock();
    for (const ObjectId id : std::exchange(whileLoading_, {}))
        if (objects) (*objects)->tellAgain(link_, id);
}

}  // namespace jollyrow
