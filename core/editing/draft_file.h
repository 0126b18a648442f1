// SPDX-License-Identifier: MIT
#pragma once
// DraftFile: what was typed and is not in the database, kept beside it, so that a crash loses nothing. A file a
// session, in a folder of the user's own, readable by nobody else: a line a change, each with a checksum, flushed to
// disk before it counts as kept. The last line of a record says all of it that is not saved; what is torn or damaged is
// passed over and counted. A session that opens the same table takes up what others have left behind that run no more.
//
// Confined to one thread at a time.

#include <cstdint>
#include <map>
#include <string>
#include <string_view>
#include <vector>

#include "core/base/result.h"
#include "core/columns/edits.h"
#include "core/columns/table.h"

namespace jollyrow {

struct KeptCell {
    std::string field;
    Value value;
    Value original;  ///< what the database held when it was typed, as far as was known
    std::string label = {};
    std::vector<Value> sent = {};  ///< handed to the database without an answer: it may hold any of them
    bool operator==(const KeptCell&) const = default;
};

struct KeptRecord {
    std::string id;  ///< names the record in the file
    RecordChange change = RecordChange::Update;
    RecordKey key;  ///< empty of one that is new
    std::vector<KeptCell> cells;
    std::int64_t when = 0;  ///< seconds since 1970-01-01 00:00 UTC
    /// Of a new one that was about to be committed: the key it would have.
    RecordKey made = {};
    /// Nothing of it is unsaved any more.
    bool isSettled() const { return change == RecordChange::Update && cells.empty(); }
    bool operator==(const KeptRecord&) const = default;
};

struct KeptDrafts {
    std::vector<KeptRecord> records;  ///< in the order in which they were begun
    std::size_t unreadable = 0;       ///< lines that are damaged; the file is set aside then
};

class DraftFile final {
  public:
    static constexpr std::size_t kMostBytes = std::size_t{256} << 20;

    DraftFile() = default;
    ~DraftFile();
    DraftFile(DraftFile&& other) noexcept;
    DraftFile& operator=(DraftFile&& other) noexcept;

    /// A file for the records of `table` in `source` (an address; no password is in it), in `folder`, which is made.
    /// What other sessions have left is read into `left` and becomes this file's. Fails in words; then nothing is kept.
    static Result<DraftFile> open(const std::string& folder, const std::string& source, const std::string& table,
                                  KeptDrafts& left);
    bool isOpen() const { return handle_ >= 0; }
    const std::string& path() const { return path_; }

    /// Appends and flushes to disk, at once for all; after that they are kept, whatever happens. Nothing is half kept:
    /// what could not be written whole is cut off again. O(bytes), now and then O(what is unsaved).
    Result<void> keep(const std::vector<KeptRecord>& records);
    /// Notes the key that a kept new record will have, flushed to disk.
    Result<void> noteMade(const std::string& id, const RecordKey& key);
    /// The session ends. With nothing unsaved the file goes.
    void close();

  private:
    Result<void> begin(const std::string& source, const std::string& table);
    Result<void> append(std::string_view lines);
    Result<void> rewrite();

    int handle_ = -1;
    std::string path_, header_;
    std::size_t bytes_ = 0;
    std::map<std::string, std::string> made_;  ///< by record, the line that names the key it will have
    std::map<std::string, std::string> live_;  ///< by record, the line that says what is unsaved of it
};

/// The folder that the state of a user's programs goes to: $XDG_STATE_HOME/jollyrow (XDG Base Directory 0.8); "" where
/// there is none.
std::string stateFolder();

}  // namespace jollyrow
