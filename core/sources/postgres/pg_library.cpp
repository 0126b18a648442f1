// SPDX-License-Identifier: MIT
// Covered by tests/sources/postgres_test.cpp; a machine without it by tests/commands/tst_outputs.cpp.
#include "core/sources/postgres/pg_library.h"

#include <dlfcn.h>

#include <fmt/format.h>

#include "core/base/require.h"

namespace jollyrow::postgres {
namespace {

constexpr const char* kFile = "libpq.so.5";

struct Library {
    PqFunctions functions{};
    std::string failure;

    Library() {
        void* const file = dlopen(kFile, RTLD_NOW | RTLD_LOCAL);
        if (file)
            findAll(file);
        else
            failure = fmt::format(
                "The library of PostgreSQL clients ({}) cannot be loaded: {}. Install it (in Debian the package "
                "libpq5) to "
                "open a database on a server.",
                kFile, dlerror());
    }

  private:
    void findAll(void* file) {
        const auto find = [&]<class Function>(Function& function, const char* name) {
            function = reinterpret_cast<Function>(dlsym(file, name));
            if (!function) failure = fmt::format("{} of this machine is too old: it has no {}.", kFile, name);
        };
        find(functions.PQbackendPID, "PQbackendPID");
        find(functions.PQcancel, "PQcancel");
        find(functions.PQclear, "PQclear");
        find(functions.PQcmdStatus, "PQcmdStatus");
        find(functions.PQcmdTuples, "PQcmdTuples");
        find(functions.PQconnectPoll, "PQconnectPoll");
        find(functions.PQconnectStartParams, "PQconnectStartParams");
        find(functions.PQconnectionNeedsPassword, "PQconnectionNeedsPassword");
        find(functions.PQconnectionUsedPassword, "PQconnectionUsedPassword");
        find(functions.PQconninfo, "PQconninfo");
        find(functions.PQconninfoFree, "PQconninfoFree");
        find(functions.PQconninfoParse, "PQconninfoParse");
        find(functions.PQconsumeInput, "PQconsumeInput");
        find(functions.PQdb, "PQdb");
        find(functions.PQdescribePrepared, "PQdescribePrepared");
        find(functions.PQerrorMessage, "PQerrorMessage");
        find(functions.PQfinish, "PQfinish");
        find(functions.PQflush, "PQflush");
        find(functions.PQfmod, "PQfmod");
        find(functions.PQfname, "PQfname");
        find(functions.PQfreeCancel, "PQfreeCancel");
        find(functions.PQfreemem, "PQfreemem");
        find(functions.PQftype, "PQftype");
        find(functions.PQgetCancel, "PQgetCancel");
        find(functions.PQgetCopyData, "PQgetCopyData");
        find(functions.PQgetResult, "PQgetResult");
        find(functions.PQgetisnull, "PQgetisnull");
        find(functions.PQgetlength, "PQgetlength");
        find(functions.PQgetvalue, "PQgetvalue");
        find(functions.PQhost, "PQhost");
        find(functions.PQisBusy, "PQisBusy");
        find(functions.PQnfields, "PQnfields");
        find(functions.PQnotifies, "PQnotifies");
        find(functions.PQntuples, "PQntuples");
        find(functions.PQparameterStatus, "PQparameterStatus");
        find(functions.PQprepare, "PQprepare");
        find(functions.PQresultErrorField, "PQresultErrorField");
        find(functions.PQresultStatus, "PQresultStatus");
        find(functions.PQsendQuery, "PQsendQuery");
        find(functions.PQsendQueryParams, "PQsendQueryParams");
        find(functions.PQserverVersion, "PQserverVersion");
        find(functions.PQsetErrorVerbosity, "PQsetErrorVerbosity");
        find(functions.PQsetNoticeProcessor, "PQsetNoticeProcessor");
        find(functions.PQsetnonblocking, "PQsetnonblocking");
        find(functions.PQsocket, "PQsocket");
        find(functions.PQstatus, "PQstatus");
        find(functions.PQtransactionStatus, "PQtransactionStatus");
        find(functions.PQuser, "PQuser");
    }
};

const Library& library() {
    static const Library loaded;
    return loaded;
}

}  // namespace

Result<void> loadPq() {
    if (!library().failure.empty()) return Error{ErrorCode::Unsupported, library().failure};
    return {};
}

const PqFunctions& pq() {
    static const PqFunctions& functions = library().functions;
    JOLLYROW_REQUIRE(functions.PQsendQuery);
    return functions;
}

}  // namespace jollyrow::postgres
