// SPDX-License-Identifier: MIT
#pragma once
// What PostgreSQL deletes and unlinks with a record by the foreign keys of other tables, kept as the texts of whole
// rows (exact for every type), and put back.

#include <map>
#include <memory>
#include <optional>
#include <set>
#include <string>
#include <vector>

#include "core/sources/postgres/pg_connection.h"
#include "core/sources/source.h"

namespace jollyrow::postgres {

struct KeptLink {
    std::string table, name;           ///< that has the foreign key: as SQL, and for people
    std::string columns;               ///< of it, as SQL, without generated ones: "a, b"
    std::vector<std::string> fields;   ///< as SQL
    std::vector<std::string> targets;  ///< of the table that is pointed to
    std::vector<std::string> key;      ///< primary key of the table that has it
    bool deletes = false;              ///< or unlinks
    bool isPartlySeen = false;         ///< row security hides some of its records from this role
};

class TakenRows final : public TakenAlong {
  public:
    struct Row {
        std::shared_ptr<const KeptLink> link;
        std::string values;  ///< the whole row
        std::string after;   ///< of an unlinked one
    };
    bool isWhole() const override { return whole; }
    bool isOf(const std::string& table) const override;

    std::vector<Row> rows;  ///< those that are pointed to before those that point to them
    bool whole = true;
};

/// Looks, in the transaction that deletes a record, at what goes with it. Confined to the store's thread.
class TakenReader final {
  public:
    /// Before the record is deleted. `where` names it, e.g. " WHERE id = $1". What this role may not read, or hold
    /// until the end of the transaction, is not whole.
    Result<void> begin(Connection& connection, const std::string& table, const std::string& where,
                       const std::vector<Parameter>& parameters, const Cancel& cancel);
    /// Behind the deletion; null when nothing went with it.
    Result<std::shared_ptr<const TakenAlong>> finish(Connection& connection, const Cancel& cancel);

  private:
    using Links = std::vector<std::shared_ptr<const KeptLink>>;
    Result<void> take(Connection& connection, const std::string& table, const std::string& where,
                      const std::vector<Parameter>& parameters, const Cancel& cancel);
    Result<Links> linksTo(Connection& connection, const std::string& table, const Cancel& cancel);
    Result<void> takeBy(Connection& connection, const std::shared_ptr<const KeptLink>& link, const std::string& parent,
                        const std::string& row, const Cancel& cancel);

    std::map<std::string, Links> links_;  ///< of this transaction
    std::shared_ptr<TakenRows> taken_;
    std::set<std::string> deleted_;    ///< places of rows: table and ctid
    std::vector<std::string> places_;  ///< of taken_->rows
    std::size_t bytes_ = 0;
};

/// "WITH … " for the statement that inserts the record again: what was deleted with it is there in the same moment, so
/// that rows may point to each other. Adds its parameters to those that are there already.
std::string insertedWith(const TakenRows& taken, std::vector<Parameter>& parameters);
/// Behind it: links that are still as the deletion has left them are as before.
Result<void> linkAgain(Connection& connection, const TakenRows& taken, const Cancel& cancel, Refusal& why);

}  // namespace jollyrow::postgres
