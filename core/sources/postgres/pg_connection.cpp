// SPDX-License-Identifier: MIT
#include "core/sources/postgres/pg_connection.h"

#include <poll.h>

#include <fmt/format.h>

#include <algorithm>
#include <atomic>
#include <cerrno>
#include <chrono>
#include <cstdlib>
#include <cstring>

#include "core/sources/credentials.h"
#include "core/sources/postgres/pg_source.h"

namespace jollyrow::postgres {
namespace {

constexpr int kPollMs = 20;
constexpr const char* kPatience = "5";           // seconds to wait for a server that does not say so in its address
constexpr std::chrono::seconds kLongestStop{5};  // for what was cancelled to end; then the connection is given up
std::atomic<std::chrono::milliseconds> longestSilence{std::chrono::seconds(10)};

/// What the server said about a connection: "… failed: FATAL:  3D000: database … does not exist", whose first words are
/// in its language. What libpq says itself has no state.
struct SaidOfConnection {
    std::string state, words;
};
SaidOfConnection saidOfConnection(std::string_view said) {
    while (!said.empty() && (said.back() == '\n' || said.back() == ' ')) said.remove_suffix(1);
    said = said.substr(0, said.find('\n'));
    constexpr std::size_t kState = 5, kBefore = 3, kBehind = 2;
    for (std::size_t at = said.find(":  "); at != said.npos; at = said.find(":  ", at + 1)) {
        const std::string_view rest = said.substr(at + kBefore);
        const bool isState = rest.size() > kState + kBehind && rest.substr(kState, kBehind) == ": " &&
                             std::all_of(rest.begin(), rest.begin() + kState,
                                         [](char c) { return (c >= '0' && c <= '9') || (c >= 'A' && c <= 'Z'); });
        if (isState) return {std::string(rest.substr(0, kState)), std::string(rest.substr(kState + kBehind))};
    }
    return {"", std::string(said)};
}

ErrorCode codeOf(std::string_view state) {
    if (state == "57014") return ErrorCode::Cancelled;
    if (state == "55P03" || state == "40001" || state == "40P01") return ErrorCode::Locked;
    if (state == "42P01" || state == "42703" || state == "3D000" || state == "3F000") return ErrorCode::NotFound;
    if (state == "42501" || state == "25006") return ErrorCode::ReadOnly;
    if (state == "53100") return ErrorCode::DiskFull;
    if (state.starts_with("23") || state.starts_with("22") || state == "P0001" || state == "44000")
        return ErrorCode::Refused;
    if (state.starts_with("0A")) return ErrorCode::Unsupported;
    if (state.starts_with("42")) return ErrorCode::InvalidInput;
    return ErrorCode::Io;
}

/// What was asked of the server, without what nobody may read.
std::string whereTo(PGconn* handle) {
    const char* host = pq().PQhost(handle);
    return fmt::format("database {} at {}", pq().PQdb(handle) ? pq().PQdb(handle) : "",
                       host && *host ? host : "the local server");
}

/// Why there is no connection. Requires: messages are verbose, so that the server's begin with an SQLSTATE whatever its
/// language.
Error whyNotConnected(PGconn* handle) {
    const auto [state, words] = saidOfConnection(pq().PQerrorMessage(handle));
    const char* user = pq().PQuser(handle);
    const std::string who = user ? user : "";
    if (pq().PQconnectionNeedsPassword(handle) != 0)
        return {ErrorCode::NeedsPassword, fmt::format("The {} asks {} for a password.", whereTo(handle), who)};
    if (state == "28P01" && pq().PQconnectionUsedPassword(handle) != 0)
        return {ErrorCode::NeedsPassword,
                fmt::format("The {} did not take this password of {}.", whereTo(handle), who)};
    if (state == "57P03")
        return {ErrorCode::Locked,
                fmt::format("The server is starting or stopping ({}). Try again in a moment.", words)};
    if (state == "53300")
        return {ErrorCode::Locked, fmt::format("The server has no room for another connection ({}). Try again when "
                                               "others have left.",
                                               words)};
    return {state == "3D000" ? ErrorCode::NotFound : ErrorCode::Io,
            fmt::format("The {} cannot be reached: {}.", whereTo(handle), words)};
}

/// Seconds to wait for the server to answer; 0 = as long as it takes.
double patienceOf(PGconn* handle) {
    double seconds = 0;
    PQconninfoOption* const all = pq().PQconninfo(handle);
    for (const PQconninfoOption* at = all; at && at->keyword; ++at)
        if (std::strcmp(at->keyword, "connect_timeout") == 0 && at->val) seconds = std::strtod(at->val, nullptr);
    pq().PQconninfoFree(all);
    return seconds;
}

/// What the server must say in one way only, whatever it or the machine is set to.
constexpr const char* kSettings =
    "SET client_encoding = 'UTF8'; SET datestyle = 'ISO, MDY'; SET intervalstyle = 'iso_8601'; SET bytea_output = "
    "'hex'; "
    "SET extra_float_digits = 1; SET lock_timeout = '5s'; SET standard_conforming_strings = on; SET "
    "synchronize_seqscans = off; SELECT pg_backend_pid()";

}  // namespace

void setLongestSilence(std::chrono::milliseconds silence) { longestSilence = silence; }

std::int64_t Answer::integer(int row, int column) const {
    std::int64_t value = 0;
    for (const char byte : bytes(row, column)) value = (value << 8) | static_cast<unsigned char>(byte);
    if (bytes(row, column).size() == 4) value = static_cast<std::int32_t>(value);
    return value;
}

std::string quotedName(std::string_view name) {
    std::string out = "\"";
    for (const char c : name) out += c == '"' ? std::string("\"\"") : std::string(1, c);
    return out + '"';
}

Result<Connection> Connection::open(const std::string& address, const Cancel& cancel) {
    return open(address, cancel, false);
}

Result<Connection> Connection::open(const std::string& address, const Cancel& cancel, bool asksAfterAnother) {
    if (auto why = whyNotAnAddress(address)) return *why;
    // The later of two says: what the address itself states stands behind what is ours.
    const auto password = passwordOf(address);
    const char* const names[] = {"connect_timeout",
                                 "keepalives_idle",
                                 "keepalives_interval",
                                 "keepalives_count",
                                 "tcp_user_timeout",
                                 "fallback_application_name",
                                 "dbname",
                                 password ? "password" : nullptr,
                                 nullptr};
    const char* const values[] = {
        kPatience, "20", "5", "3", "20000", "Jolly Row", address.c_str(), password ? password->c_str() : nullptr,
        nullptr};
    Connection made(pq().PQconnectStartParams(names, values, 1));
    made.asksAfterAnother_ = asksAfterAnother;
    PGconn* handle = made.handle_.get();
    if (!handle) return Error{ErrorCode::Io, "There is no memory for a connection."};
    pq().PQsetErrorVerbosity(handle, PQERRORS_VERBOSE);
    const auto begun = Clock::now();
    const double limit = patienceOf(handle);
    for (auto wants = PGRES_POLLING_WRITING; pq().PQstatus(handle) != CONNECTION_BAD && wants != PGRES_POLLING_OK;) {
        if (cancel.requested()) return Error{ErrorCode::Cancelled, "Connecting was stopped."};
        if (wants == PGRES_POLLING_FAILED) return whyNotConnected(handle);
        pollfd socket{pq().PQsocket(handle), static_cast<short>(wants == PGRES_POLLING_READING ? POLLIN : POLLOUT), 0};
        const int ready = poll(&socket, 1, kPollMs);
        // What has come is read, however late: a machine that was busy may have kept us, not the server.
        if (ready == 0 && limit > 0 && std::chrono::duration<double>(Clock::now() - begun).count() > limit)
            return Error{ErrorCode::Io, fmt::format("The {} did not answer within {:.0f} second{}.", whereTo(handle),
                                                    limit, limit == 1 ? "" : "s")};
        if (ready != 0) wants = pq().PQconnectPoll(handle);
    }
    if (pq().PQstatus(handle) != CONNECTION_OK) return whyNotConnected(handle);
    if (auto ready = made.begin(address); !ready) return ready.error();
    return made;
}

/// What is asked of a server once it has let us in.
Result<void> Connection::begin(const std::string& address) {
    PGconn* handle = handle_.get();
    address_ = address;
    where_ = whereTo(handle);
    opened_ = heard_ = Clock::now();
    backend_ = pq().PQbackendPID(handle);
    pq().PQsetErrorVerbosity(handle, PQERRORS_DEFAULT);
    pq().PQsetNoticeProcessor(
        handle, [](void*, const char*) {}, nullptr);
    constexpr int kOldest = 120000;
    if (pq().PQserverVersion(handle) < kOldest)
        return Error{ErrorCode::Unsupported,
                     fmt::format("The server is PostgreSQL {}; 12 is the oldest that is known here.",
                                 pq().PQserverVersion(handle) / 10000)};
    if (const char* encoding = pq().PQparameterStatus(handle, "server_encoding");
        encoding && std::strcmp(encoding, "SQL_ASCII") == 0)
        return Error{
            ErrorCode::Unsupported,
            "This database does not know in which encoding its texts are (SQL_ASCII), so they cannot be shown."};
    pq().PQsetnonblocking(handle, 1);
    if (pq().PQsendQuery(handle, kSettings) == 0) return refusalOf(nullptr).error;
    std::optional<Answer> last;
    while (PGresult* next = nextResult({})) {
        last.emplace(next);
        if (pq().PQresultStatus(next) == PGRES_FATAL_ERROR) return refusalOf(next).error;
    }
    if (!last || pq().PQresultStatus(last->get()) != PGRES_TUPLES_OK) return refusalOf(nullptr).error;
    if (last->text(0, 0) != std::to_string(backend_)) backend_ = 0;  // behind a go-between it is another
    return {};
}

bool Connection::isInTransaction() const {
    const auto status = pq().PQtransactionStatus(handle_.get());
    return status == PQTRANS_INTRANS || status == PQTRANS_INERROR;
}

Refusal Connection::refusalOf(const PGresult* result) const {
    const auto part = [result](int code) {
        const char* text = result ? pq().PQresultErrorField(result, code) : nullptr;
        return std::string(text ? text : "");
    };
    Refusal refusal;
    refusal.state = part(PG_DIAG_SQLSTATE);
    refusal.table = part(PG_DIAG_TABLE_NAME);
    refusal.column = part(PG_DIAG_COLUMN_NAME);
    refusal.constraint = part(PG_DIAG_CONSTRAINT_NAME);
    refusal.said = part(PG_DIAG_MESSAGE_PRIMARY);
    if (isBroken() && stoppedAt_) {
        refusal.error = {ErrorCode::Cancelled, "Stopped."};
        refusal.state.clear();
    } else if (isBroken() || refusal.state.empty()) {
        refusal.error = {ErrorCode::Io, refusal.said.empty()
                                            ? fmt::format("The connection to {} was lost.", where_)
                                            : fmt::format("The connection to {} was lost; the server says: {}.", where_,
                                                          refusal.said)};
        refusal.state.clear();
    } else if (codeOf(refusal.state) == ErrorCode::Locked) {
        refusal.error = {ErrorCode::Locked, "Somebody else holds these records on the server; try again in a moment."};
    } else if (codeOf(refusal.state) == ErrorCode::Cancelled) {
        refusal.error = stoppedAt_ ? Error{ErrorCode::Cancelled, "Stopped."}
                                   : Error{ErrorCode::Io, fmt::format("The server stopped this before it was done: {}. "
                                                                      "It may limit how long a request takes.",
                                                                      refusal.said)};
    } else {
        refusal.error = {codeOf(refusal.state), fmt::format("The server says: {}.", refusal.said)};
    }
    return refusal;
}

/// Until an answer is there, or none will come. Then the connection is broken.
void Connection::await(const Cancel& cancel) {
    while (handle_ && (pq().PQflush(handle_.get()) > 0 || pq().PQisBusy(handle_.get()) != 0))
        if (!hasMoreToCome(cancel)) return;
}

/// One turn of waiting: until bytes have come or gone, or for some milliseconds. False when it is of no use to wait.
bool Connection::hasMoreToCome(const Cancel& cancel) {
    PGconn* handle = handle_.get();
    if (cancel.requested() && !stoppedAt_) stopOnServer();
    const bool sends = pq().PQflush(handle) > 0;
    pollfd socket{pq().PQsocket(handle), static_cast<short>(sends ? POLLIN | POLLOUT : POLLIN), 0};
    const int ready = poll(&socket, 1, kPollMs);
    if (ready < 0 && errno != EINTR) return false;
    const auto now = Clock::now();
    if (ready > 0) {
        heard_ = now;
        return pq().PQconsumeInput(handle) != 0;
    }
    bool isOver = stoppedAt_ && now - *stoppedAt_ > kLongestStop;
    if (!isOver && now - heard_ > longestSilence.load()) {
        isOver = isLost();
        heard_ = Clock::now();
    }
    if (isOver) handle_.reset();
    return !isOver;
}

/// Asks the server to stop what is under way; it answers on this connection.
void Connection::stopOnServer() {
    stoppedAt_ = Clock::now();
    PGcancel* request = pq().PQgetCancel(handle_.get());
    if (!request) return;
    char words[256];
    pq().PQcancel(request, words, sizeof words);
    pq().PQfreeCancel(request);
}

/// Asks after this connection, which owes an answer and is silent. A server that works on it is not lost. One that
/// waits for us, as we do for it, is: what it holds for us, records and locks, is let go.
bool Connection::isLost() {
    if (asksAfterAnother_) return true;
    auto other = open(address_, {}, true);
    if (!other && other.error().code == ErrorCode::Io) other = open(address_, {}, true);  // it may only be busy
    if (!other) return other.error().code == ErrorCode::Io;
    if (backend_ == 0) return false;
    constexpr int kTurns = 2;
    for (int i = 0; i < kTurns; ++i) {
        // The number of a process may be another's by now, but not one that began with us.
        auto waits = other->run(
            "SELECT coalesce(wait_event_type = 'Client', false) FROM pg_stat_activity WHERE pid = $1::int4 AND "
            "abs(extract(epoch FROM clock_timestamp() - backend_start) - $2::float8) < 5",
            {std::to_string(backend_), std::to_string(std::chrono::duration<double>(Clock::now() - opened_).count())});
        if (!waits) return false;
        if (waits->rows() == 0) return true;
        pollfd socket{pq().PQsocket(handle_.get()), POLLIN, 0};
        if (!waits->isTrue(0, 0) || poll(&socket, 1, kPollMs * 10) > 0) return false;
    }
    (void)other->run("SELECT pg_terminate_backend($1::int4)", {std::to_string(backend_)});
    return true;
}

/// The next result of what was sent, nullptr behind the last. A connection that was given up has none.
PGresult* Connection::nextResult(const Cancel& cancel) {
    await(cancel);
    return handle_ ? pq().PQgetResult(handle_.get()) : nullptr;
}

Result<Answer> Connection::run(const std::string& sql, const std::vector<Parameter>& parameters, const Cancel& cancel,
                               Refusal* refusal) {
    if (sql != "ROLLBACK") state_.clear();
    stoppedAt_.reset();
    heard_ = Clock::now();
    std::vector<const char*> values;
    values.reserve(parameters.size());
    for (const Parameter& parameter : parameters) {
        if (parameter && parameter->find('\0') != std::string::npos)
            return Error{ErrorCode::Refused, "A text with a zero byte in it cannot be kept by this database."};
        values.push_back(parameter ? parameter->c_str() : nullptr);
    }
    const auto failed = [&](const PGresult* result) {
        Refusal why = refusalOf(result);
        state_ = why.state;
        if (refusal) *refusal = why;
        return why.error;
    };
    if (isBroken() || pq().PQsendQueryParams(handle_.get(), sql.c_str(), static_cast<int>(values.size()), nullptr,
                                             values.data(), nullptr, nullptr, 1) == 0)
        return failed(nullptr);
    std::optional<Answer> kept;
    while (PGresult* next = nextResult(cancel)) {
        if (!kept || pq().PQresultStatus(next) == PGRES_FATAL_ERROR)
            kept.emplace(next);
        else
            pq().PQclear(next);
        if (pq().PQresultStatus(kept->get()) == PGRES_COPY_OUT) return std::move(*kept);
        if (isBroken()) break;
    }
    if (!kept || !handle_) return failed(nullptr);
    const ExecStatusType status = pq().PQresultStatus(kept->get());
    if (status != PGRES_TUPLES_OK && status != PGRES_COMMAND_OK) return failed(kept->get());
    return std::move(*kept);
}

Result<std::optional<std::string_view>> Connection::copied(const Cancel& cancel) {
    while (handle_) {
        if (cancel.requested() && !stoppedAt_) stopOnServer();
        char* bytes = nullptr;
        const int length = pq().PQgetCopyData(handle_.get(), &bytes, 1);
        row_.reset(bytes);
        if (length > 0) return std::optional(std::string_view(bytes, static_cast<std::size_t>(length)));
        if (length == 0) {
            if (!hasMoreToCome(cancel)) break;
            continue;
        }
        // The end, or what went wrong.
        std::optional<Answer> last;
        while (PGresult* next = nextResult(cancel))
            if (!last || pq().PQresultStatus(next) == PGRES_FATAL_ERROR)
                last.emplace(next);
            else
                pq().PQclear(next);
        if (last && pq().PQresultStatus(last->get()) == PGRES_COMMAND_OK) return std::optional<std::string_view>();
        return refusalOf(last ? last->get() : nullptr).error;
    }
    return refusalOf(nullptr).error;
}

}  // namespace jollyrow::postgres
