// SPDX-License-Identifier: MIT
#pragma once
// What an application can add to a grid by functions: checks of edited records, and what becomes of their saving.

#include <QString>

#include <functional>
#include <map>
#include <vector>

#include "core/editing/saver.h"
#include "core/session/record_checks.h"

namespace jollyrow {

/// The record as it stands while it is edited: stored and typed values by field name; Empty for what there is not.
using EditedRecord = std::function<Value(const QString& field)>;
/// Answers a check that was asked: what is wrong, for the form user; empty when nothing. Once, on the window's thread.
using CheckAnswer = std::function<void(const QString& problem)>;

/// One record that is to be saved.
struct SaveRequest {
    RecordChange change = RecordChange::Update;
    RecordKey key;  ///< empty for a new one
    /// What is written, by field; of a deletion nothing. New records get what they do not name from the database.
    std::map<QString, Value> values;
    std::map<QString, Value> before;  ///< what is believed to be stored there
};

/// The answer to a save: once, at once or later, from any thread. When all copies are gone without one, it is refused.
class SaveReply final {
  public:
    SaveReply(SaveAnswer answer, SharedSchema schema) : answer_(std::move(answer)), schema_(std::move(schema)) {}
    /// The database may have them: they are written as they would be without the application.
    void store() const { answer_.store(); }
    /// The application has saved them. `keys`: of new records that have no key among their values, by place in the
    /// request.
    void stored(const std::map<std::size_t, RecordKey>& keys = {}) const;
    /// Not saved, none of them: `message` is told at the field, or at the record, of the one at this place.
    void refuse(const QString& message, const QString& field = {}, std::size_t record = 0) const;

  private:
    SaveAnswer answer_;
    SharedSchema schema_;
};

/// Called on the window's thread with the records of one save.
using SaveFunction = std::function<void(const std::vector<SaveRequest>& records, const SaveReply& reply)>;

}  // namespace jollyrow
