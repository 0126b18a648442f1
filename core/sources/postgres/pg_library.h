// SPDX-License-Identifier: MIT
#pragma once
// libpq, looked up when the first server is opened: with it come libraries for TLS, LDAP and Kerberos, some twenty in
// all, which a program that opens files only would load and keep for nothing (10 ms and 7 MB).

#include <postgresql/libpq-fe.h>

#include "core/base/result.h"

namespace jollyrow::postgres {

/// The functions of libpq that are used here, by their own names.
struct PqFunctions {
    decltype(&::PQbackendPID) PQbackendPID;
    decltype(&::PQcancel) PQcancel;
    decltype(&::PQclear) PQclear;
    decltype(&::PQcmdStatus) PQcmdStatus;
    decltype(&::PQcmdTuples) PQcmdTuples;
    decltype(&::PQconnectPoll) PQconnectPoll;
    decltype(&::PQconnectStartParams) PQconnectStartParams;
    decltype(&::PQconnectionNeedsPassword) PQconnectionNeedsPassword;
    decltype(&::PQconnectionUsedPassword) PQconnectionUsedPassword;
    decltype(&::PQconninfo) PQconninfo;
    decltype(&::PQconninfoFree) PQconninfoFree;
    decltype(&::PQconninfoParse) PQconninfoParse;
    decltype(&::PQconsumeInput) PQconsumeInput;
    decltype(&::PQdb) PQdb;
    decltype(&::PQdescribePrepared) PQdescribePrepared;
    decltype(&::PQerrorMessage) PQerrorMessage;
    decltype(&::PQfinish) PQfinish;
    decltype(&::PQflush) PQflush;
    decltype(&::PQfmod) PQfmod;
    decltype(&::PQfname) PQfname;
    decltype(&::PQfreeCancel) PQfreeCancel;
    decltype(&::PQfreemem) PQfreemem;
    decltype(&::PQftype) PQftype;
    decltype(&::PQgetCancel) PQgetCancel;
    decltype(&::PQgetCopyData) PQgetCopyData;
    decltype(&::PQgetResult) PQgetResult;
    decltype(&::PQgetisnull) PQgetisnull;
    decltype(&::PQgetlength) PQgetlength;
    decltype(&::PQgetvalue) PQgetvalue;
    decltype(&::PQhost) PQhost;
    decltype(&::PQisBusy) PQisBusy;
    decltype(&::PQnfields) PQnfields;
    decltype(&::PQnotifies) PQnotifies;
    decltype(&::PQntuples) PQntuples;
    decltype(&::PQparameterStatus) PQparameterStatus;
    decltype(&::PQprepare) PQprepare;
    decltype(&::PQresultErrorField) PQresultErrorField;
    decltype(&::PQresultStatus) PQresultStatus;
    decltype(&::PQsendQuery) PQsendQuery;
    decltype(&::PQsendQueryParams) PQsendQueryParams;
    decltype(&::PQserverVersion) PQserverVersion;
    decltype(&::PQsetErrorVerbosity) PQsetErrorVerbosity;
    decltype(&::PQsetNoticeProcessor) PQsetNoticeProcessor;
    decltype(&::PQsetnonblocking) PQsetnonblocking;
    decltype(&::PQsocket) PQsocket;
    decltype(&::PQstatus) PQstatus;
    decltype(&::PQtransactionStatus) PQtransactionStatus;
    decltype(&::PQuser) PQuser;
};

/// Looks libpq up, once for the process; why it cannot be had. Thread-safe.
Result<void> loadPq();
/// Requires: loadPq() went well.
const PqFunctions& pq();

}  // namespace jollyrow::postgres
