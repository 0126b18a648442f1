// SPDX-License-Identifier: MIT
#include "core/sources/postgres/pg_connection.h"

#include <poll.h>

#include <fmt/format.h>

#include <algorithm>
#include <cerrno>
#include <chrono>
#include <cstdlib>
#include <cstring>

#include "core/sources/credentials.h"
#include "core/sources/postgres/pg_source.h"

namespace jollyrow::postgres {
namespace {

constexpr int kPollMs = 20;
constexpr const char* kPatience = "5";  // seconds to wait for a server that does not say so in its address

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

Refusal refusalOf(const PGresult* result, PGconn* handle) {
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
    if (pq().PQstatus(handle) != CONNECTION_OK || refusal.state.empty()) {
        refusal.error = {ErrorCode::Io, fmt::format("The connection to {} was lost.", whereTo(handle))};
        refusal.state.clear();
    } else if (codeOf(refusal.state) == ErrorCode::Locked) {
        refusal.error = {ErrorCode::Locked, "Somebody else holds these records on the server; try again in a moment."};
    } else if (codeOf(refusal.state) == ErrorCode::Cancelled) {
        refusal.error = {ErrorCode::Cancelled, "Stopped."};
    } else {
        refusal.error = {codeOf(refusal.state), fmt::format("The server says: {}.", refusal.said)};
    }
    return refusal;
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
    "synchronize_seqscans = off";

}  // namespace

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
    if (auto why = whyNotAnAddress(address)) return *why;
    // The later of two says: what the address itself states stands behind what is ours.
    const auto password = passwordOf(address);
    const char* const names[] = {"connect_timeout", "fallback_application_name", "dbname",
                                 password ? "password" : nullptr, nullptr};
    const char* const values[] = {kPatience, "Jolly Row", address.c_str(), password ? password->c_str() : nullptr,
                                  nullptr};
    Connection made(pq().PQconnectStartParams(names, values, 1));
    PGconn* handle = made.handle_.get();
    if (!handle) return Error{ErrorCode::Io, "There is no memory for a connection."};
    pq().PQsetErrorVerbosity(handle, PQERRORS_VERBOSE);
    const auto begun = std::chrono::steady_clock::now();
    const double limit = patienceOf(handle);
    for (auto wants = PGRES_POLLING_WRITING; pq().PQstatus(handle) != CONNECTION_BAD && wants != PGRES_POLLING_OK;) {
        if (cancel.requested()) return Error{ErrorCode::Cancelled, "Connecting was stopped."};
        if (wants == PGRES_POLLING_FAILED) return whyNotConnected(handle);
        pollfd socket{pq().PQsocket(handle), static_cast<short>(wants == PGRES_POLLING_READING ? POLLIN : POLLOUT), 0};
        const int ready = poll(&socket, 1, kPollMs);
        if (limit > 0 && std::chrono::duration<double>(std::chrono::steady_clock::now() - begun).count() > limit)
            return Error{ErrorCode::Io,
                         fmt::format("The {} did not answer within {:.0f} seconds.", whereTo(handle), limit)};
        if (ready != 0) wants = pq().PQconnectPoll(handle);
    }
    if (pq().PQstatus(handle) != CONNECTION_OK) return whyNotConnected(handle);
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
    const Answer set(pq().PQexec(handle, kSettings));
    if (pq().PQresultStatus(set.get()) != PGRES_COMMAND_OK) return refusalOf(set.get(), handle).error;
    return made;
}

bool Connection::isInTransaction() const {
    const auto status = pq().PQtransactionStatus(handle_.get());
    return status == PQTRANS_INTRANS || status == PQTRANS_INERROR;
}

/// Until an answer is there; the request is cancelled on the server when that is asked for.
Result<void> Connection::await(const Cancel& cancel) {
    PGconn* handle = handle_.get();
    bool isCancelled = false;
    for (;;) {
        if (pq().PQflush(handle) < 0 || (pq().PQisBusy(handle) == 0)) break;
        if (cancel.requested() && !isCancelled) {
            isCancelled = true;
            char words[256];
            if (PGcancel* request = pq().PQgetCancel(handle)) {
                pq().PQcancel(request, words, sizeof words);
                pq().PQfreeCancel(request);
            }
        }
        pollfd socket{pq().PQsocket(handle), POLLIN, 0};
        if (poll(&socket, 1, kPollMs) < 0 && errno != EINTR) break;
        if (pq().PQconsumeInput(handle) == 0) break;
    }
    return {};
}

Result<Answer> Connection::run(const std::string& sql, const std::vector<Parameter>& parameters, const Cancel& cancel,
                               Refusal* refusal) {
    PGconn* handle = handle_.get();
    if (sql != "ROLLBACK") state_.clear();
    std::vector<const char*> values;
    values.reserve(parameters.size());
    for (const Parameter& parameter : parameters) {
        if (parameter && parameter->find('\0') != std::string::npos)
            return Error{ErrorCode::Refused, "A text with a zero byte in it cannot be kept by this database."};
        values.push_back(parameter ? parameter->c_str() : nullptr);
    }
    const auto failed = [&](const PGresult* result) {
        Refusal why = refusalOf(result, handle);
        state_ = why.state;
        if (refusal) *refusal = why;
        return why.error;
    };
    if (pq().PQsendQueryParams(handle, sql.c_str(), static_cast<int>(values.size()), nullptr, values.data(), nullptr,
                               nullptr, 1) == 0)
        return failed(nullptr);
    std::optional<Answer> kept;
    for (;;) {
        if (auto waited = await(cancel); !waited) return waited.error();
        PGresult* next = pq().PQgetResult(handle);
        if (!next) break;
        if (!kept || pq().PQresultStatus(next) == PGRES_FATAL_ERROR)
            kept.emplace(next);
        else
            pq().PQclear(next);
        if (pq().PQresultStatus(kept->get()) == PGRES_COPY_OUT) return std::move(*kept);
        if (isBroken()) break;
    }
    if (!kept) return failed(nullptr);
    const ExecStatusType status = pq().PQresultStatus(kept->get());
    if (status != PGRES_TUPLES_OK && status != PGRES_COMMAND_OK) return failed(kept->get());
    return std::move(*kept);
}

Result<std::optional<std::string_view>> Connection::copied(const Cancel& cancel) {
    PGconn* handle = handle_.get();
    for (;;) {
        char* bytes = nullptr;
        const int length = pq().PQgetCopyData(handle, &bytes, 1);
        row_.reset(bytes);
        if (length > 0) return std::optional(std::string_view(bytes, static_cast<std::size_t>(length)));
        if (length < 0) {  // the end, or what went wrong
            std::optional<Answer> last;
            while (PGresult* next = pq().PQgetResult(handle))
                if (!last || pq().PQresultStatus(next) == PGRES_FATAL_ERROR)
                    last.emplace(next);
                else
                    pq().PQclear(next);
            if (last && pq().PQresultStatus(last->get()) == PGRES_COMMAND_OK) return std::optional<std::string_view>();
            return refusalOf(last ? last->get() : nullptr, handle).error;
        }
        pollfd socket{pq().PQsocket(handle), POLLIN, 0};
        poll(&socket, 1, kPollMs);
        if (cancel.requested())
            if (PGcancel* request = pq().PQgetCancel(handle)) {
                char words[256];
                pq().PQcancel(request, words, sizeof words);
                pq().PQfreeCancel(request);
            }
        if (pq().PQconsumeInput(handle) == 0) return refusalOf(nullptr, handle).error;
    }
}

}  // namespace jollyrow::postgres
