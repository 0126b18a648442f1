// SPDX-License-Identifier: MIT
#pragma once
// Saver: an application that decides what becomes of records that are to be saved, before the database is asked or in
// its place. It is called on the owner's thread and may answer later, from any thread.

#include <condition_variable>
#include <functional>
#include <memory>
#include <mutex>
#include <optional>
#include <span>
#include <string>
#include <variant>
#include <vector>

#include "core/base/post.h"
#include "core/editing/save_queue.h"

namespace jollyrow {

/// The one answer to a save. Copies are the same answer; the first one counts. When all copies are gone without one,
/// the records are refused: nothing waits for ever. Thread-safe.
class SaveAnswer final {
  public:
    /// The database may have them: they are written as without a saver.
    void store() const;
    /// The application has saved them itself. `records`: as they stand now, in the order of the writes; none: as they
    /// were handed over. A new record whose key is not among its values needs one here.
    void stored(std::vector<StoredRecord> records = {}) const;
    /// One of them is not saved, for a reason that the form user is told; nor are the others of this save.
    void refuse(std::string message, std::vector<FieldIndex> fields = {}, std::size_t record = 0) const;

    struct Store {};
    struct Stored {
        std::vector<StoredRecord> records;
    };
    struct Refused {
        std::string message;
        std::vector<FieldIndex> fields;
        std::size_t record = 0;
    };
    struct Closed {};
    using Decision = std::variant<Store, Stored, Refused, Closed>;
    class Waiting;  ///< what the store's thread waits on
    explicit SaveAnswer(std::shared_ptr<Waiting> waiting);

  private:
    struct Handle;
    std::shared_ptr<Handle> handle_;
};

/// The records of one save, which stand or fall together or each by itself, as the design says.
using Saver = std::function<void(std::vector<RecordWrite> records, SaveAnswer answer)>;

/// Where a session keeps its saver: the store's thread asks it for each save. Thread-safe.
class SaverDesk final {
  public:
    explicit SaverDesk(Post post) : post_(std::move(post)) {}
    /// An empty one: the database decides alone.
    void set(Saver saver);
    bool isSet();
    /// Saves that wait for an answer are given up, and no more are asked for. They stay drafts.
    void close();
    /// `open`, with the saver asked before.
    static StoreOpener before(std::shared_ptr<SaverDesk> desk, StoreOpener open);
    /// Called on the store's thread; nullopt when there is no saver.
    std::optional<SaveAnswer::Decision> ask(std::span<const RecordWrite> records);

  private:
    Post post_;
    std::mutex mutex_;
    std::shared_ptr<const Saver> saver_;
    bool closed_ = false;
    std::vector<std::weak_ptr<SaveAnswer::Waiting>> waiting_;
};

}  // namespace jollyrow
