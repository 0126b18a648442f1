// SPDX-License-Identifier: MIT
#pragma once
// RecordChecks: what is wrong with an edited record besides rules: what functions of the application say, at once or
// later, and which values the database would refuse because another record has them, or none has what a link points to.
// It remembers what was asked of which values, and what the answer was. Confined to the owner's thread.

#include <functional>
#include <map>
#include <memory>
#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <vector>

#include "core/columns/edits.h"
#include "core/columns/schema.h"
#include "core/sources/source.h"

namespace jollyrow {

/// The record as it stands now, by field name; Empty for what there is not.
using ReadRecord = std::function<Value(std::string_view field)>;

/// A check of the application: a function that says at once what is wrong ("" = nothing), or one that answers later, on
/// the owner's thread: until then the record is not saved. What a function throws is said as a problem.
struct RecordCheck {
    std::string name;        ///< unique among them
    std::string field = {};  ///< at fault; "" = the record as a whole
    bool warning = false;    ///< may be overridden
    std::function<std::string(const ReadRecord& read)> judge = {};
    std::function<void(const ReadRecord& read, std::function<void(std::string)> answer)> ask = {};
};

class RecordChecks final {
  public:
    /// `answered`: a record's problems are to be found again.
    explicit RecordChecks(std::function<void(SourceRow)> answered) : answered_(std::move(answered)) {}
    void set(std::vector<RecordCheck> checks);
    bool empty() const { return checks_.empty(); }
    /// Rows mean other records now, or fields others: nothing that was asked is answered any more.
    void forget();

    struct Record {
        SourceRow row{};
        const RecordEdit& edit;
        const TableSchema& schema;
        std::function<Value(FieldIndex)> read;
        std::function<std::string(FieldIndex)> heading = {};  ///< for people; else the field's name
    };
    /// Adds what the application's checks say of a record, asking those that answer later.
    void addJudged(const Record& record, std::vector<RecordProblem>& problems);
    /// Only those that say it at once.
    void addJudgedAtOnce(const Record& record, std::vector<RecordProblem>& problems) const;
    /// Adds what is known of its unique values and links; what is not known is noted to be asked.
    void addPresence(const Record& record, const std::function<RecordRequest()>& itself,
                     std::vector<RecordProblem>& problems);

    struct Question {
        SourceRow row{};
        std::string constraint;
        PresenceRequest request;
    };
    /// Something was stored in this table: what was answered of it is to be asked again, and stands until then.
    void doubt(std::string_view table);
    /// What has no answer yet, or one in doubt; asked before or not.
    std::vector<Question> open() const;
    /// False when other values stand there by now, or nothing is new. The caller finds the problems of the record
    /// again.
    bool take(const Question& question, bool isPresent);

  private:
    enum class State { Waiting, Answered };
    struct Asked {
        std::vector<Value> values;  ///< of these it was asked
        State state = State::Waiting;
        std::string message;
        std::uint64_t number = 0;
    };
    struct Wanted {
        std::vector<Value> values;
        bool isKnown = false, isPresent = false, isInDoubt = false;
        PresenceRequest request;
    };
    struct Constraint {
        std::string name;
        std::vector<FieldIndex> fields;
        std::optional<ForeignKey> link = std::nullopt;  ///< nothing: values that only one record may have
    };
    const std::vector<Constraint>& constraintsOf(const TableSchema& schema);
    std::string answerOf(const RecordCheck& check, const Record& record, bool& isWaiting);

    std::function<void(SourceRow)> answered_;
    std::vector<RecordCheck> checks_;
    std::map<std::pair<SourceRow, std::string>, Asked> asked_;
    std::map<std::pair<SourceRow, std::string>, Wanted> wanted_;
    std::optional<std::vector<Constraint>> constraints_;  ///< of the schema, once they were asked for
    std::uint64_t next_ = 1;
    bool asking_ = false;  ///< inside of a function that may answer at once
    std::shared_ptr<bool> alive_ = std::make_shared<bool>(true);
};

}  // namespace jollyrow
