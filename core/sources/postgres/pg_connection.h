// SPDX-License-Identifier: MIT
#pragma once
// A connection to a PostgreSQL server by libpq, and what it answers. Every wait looks at a Cancel; a request that is
// given up is cancelled on the server, too. A server that owes an answer and is silent is asked after by a second
// connection: when it works on the answer it is waited for, else the connection is lost. Confined to one thread at a
// time.

#include <chrono>
#include <memory>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "core/base/cancel.h"
#include "core/base/result.h"
#include "core/sources/postgres/pg_library.h"

namespace jollyrow::postgres {

/// A parameter as text; nullopt is NULL.
using Parameter = std::optional<std::string>;

/// Rows of a query, in binary form.
class Answer final {
  public:
    explicit Answer(PGresult* result) : result_(result) {}
    int rows() const { return pq().PQntuples(result_.get()); }
    int columns() const { return pq().PQnfields(result_.get()); }
    bool isNull(int row, int column) const { return pq().PQgetisnull(result_.get(), row, column) != 0; }
    /// The bytes as sent; "" for NULL.
    std::string_view bytes(int row, int column) const {
        return {pq().PQgetvalue(result_.get(), row, column),
                static_cast<std::size_t>(pq().PQgetlength(result_.get(), row, column))};
    }
    std::string text(int row, int column) const { return std::string(bytes(row, column)); }
    /// Of a boolean.
    bool isTrue(int row, int column) const { return bytes(row, column) == std::string_view("\1", 1); }
    /// Of an int4 or int8.
    std::int64_t integer(int row, int column) const;
    PGresult* get() const { return result_.get(); }

  private:
    struct Clear {
        void operator()(PGresult* result) const { pq().PQclear(result); }
    };
    std::unique_ptr<PGresult, Clear> result_;
};

/// A refusal by the server: the words for the form user in `error`, the rest to find out which field it is about.
struct Refusal {
    Error error;
    std::string state;  ///< SQLSTATE, five characters; "" when the connection broke
    std::string table, column, constraint, said;
};

/// For how long a server that owes an answer may be silent before it is asked after; 10 seconds when nobody sets it.
/// Thread-safe, of the whole process.
void setLongestSilence(std::chrono::milliseconds silence);

class Connection final {
  public:
    /// Waits for the server as the address says (connect_timeout), some seconds when it says nothing.
    static Result<Connection> open(const std::string& address, const Cancel& cancel = {});

    /// One statement. `refusal` tells more of what went wrong.
    Result<Answer> run(const std::string& sql, const std::vector<Parameter>& parameters = {}, const Cancel& cancel = {},
                       Refusal* refusal = nullptr);
    /// Reads one more row of a COPY TO STDOUT that run() has begun; nullopt at its end.
    Result<std::optional<std::string_view>> copied(const Cancel& cancel);
    bool isBroken() const { return pq().PQstatus(handle_.get()) != CONNECTION_OK; }
    bool isInTransaction() const;
    /// The last refusal: the server gave the transaction up because of others (40001, 40P01); again, it may be taken.
    bool wasGivenUp() const { return state_ == "40001" || state_ == "40P01"; }
    PGconn* get() const { return handle_.get(); }
    const std::string& address() const { return address_; }

  private:
    using Clock = std::chrono::steady_clock;
    explicit Connection(PGconn* handle) : handle_(handle) {}
    static Result<Connection> open(const std::string& address, const Cancel& cancel, bool asksAfterAnother);
    Result<void> begin(const std::string& address);
    void await(const Cancel& cancel);
    PGresult* nextResult(const Cancel& cancel);
    bool hasMoreToCome(const Cancel& cancel);
    void stopOnServer();
    bool isLost();
    Refusal refusalOf(const PGresult* result) const;
    struct Finish {
        void operator()(PGconn* handle) const { pq().PQfinish(handle); }
    };
    std::unique_ptr<PGconn, Finish> handle_;
    std::string address_, where_;
    int backend_ = 0;  ///< the process that serves this connection, 0 when it is not known for certain
    bool asksAfterAnother_ = false;
    Clock::time_point opened_, heard_;            ///< bytes have come last
    std::optional<Clock::time_point> stoppedAt_;  ///< the server was asked to stop what is under way
    std::string state_;                           ///< SQLSTATE of the last refusal
    struct FreeCopied {
        void operator()(char* bytes) const { pq().PQfreemem(bytes); }
    };
    std::unique_ptr<char, FreeCopied> row_;  ///< what copied() gave last
};

/// In double quotes.
std::string quotedName(std::string_view name);

}  // namespace jollyrow::postgres
