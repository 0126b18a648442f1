// SPDX-License-Identifier: MIT
#pragma once
// ObjectsLink: a session on an application's objects: reads them, writes what is typed into them, and takes what the
// application changes as it changes. Confined to the owner's thread; ends before its session.

#include <cstdint>
#include <memory>
#include <set>

#include "core/base/post.h"
#include "core/design/design.h"
#include "core/session/session.h"
#include "core/sources/objects/objects.h"

namespace jollyrow {

class ObjectsLink final {
  public:
    /// `objects` must outlive the link, or say so by its end, from which on nothing can be saved.
    ObjectsLink(Session& session, Objects& objects, Post post);
    ~ObjectsLink();
    ObjectsLink(const ObjectsLink&) = delete;
    ObjectsLink& operator=(const ObjectsLink&) = delete;

    /// Opens the session on the objects.
    Result<void> open(Design design);
    /// A load of the session has ended: changes that could not be shown in it are read by the next one.
    void loaded();

  private:
    void told(const std::vector<ElsewhereChange>& changes);
    void write(std::vector<RecordWrite> records, const SaveAnswer& answer);

    Session& session_;
    std::weak_ptr<Objects*> objects_;
    std::shared_ptr<SaverDesk> desk_;
    std::uint64_t link_ = 0;
    bool isReloadDue_ = false;
    std::set<ObjectId> whileLoading_;  ///< objects that changed while a load was under way
};

}  // namespace jollyrow
