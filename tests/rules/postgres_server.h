// SPDX-License-Identifier: MIT
#pragma once
// A PostgreSQL cluster of the test's own, on a socket in a directory of its own, gone with the object. Serves as the
// oracle of the rule language.

#include <libpq-fe.h>
#include <sys/stat.h>
#include <unistd.h>

#include <cstdio>
#include <cstdlib>
#include <filesystem>
#include <fstream>
#include <optional>
#include <string>
#include <utility>
#include <vector>

#include <fmt/format.h>

namespace jollyrow::test {

struct PostgresAnswer {
    bool ok = false;
    std::string error;
    std::vector<std::optional<std::string>> cells;  ///< of the first column
};

class PostgresServer final {
  public:
    /// The first line of what went wrong, "" when it runs.
    std::string start() {
        const char* found = nullptr;
        for (const char* candidate :
             {"/usr/lib/postgresql/15/bin", "/usr/lib/postgresql/16/bin", "/usr/lib/postgresql/17/bin"})
            if (std::filesystem::exists(std::string(candidate) + "/initdb")) found = candidate;
        if (!found) return "PostgreSQL's server programs are not installed";
        bin_ = found;
        char pattern[] = "/tmp/jollyrow-postgres-XXXXXX";
        if (!mkdtemp(pattern)) return "no temporary directory";
        home_ = pattern;
        chmod(home_.c_str(), 0777);
        if (!run(
                fmt::format("{}/initdb -D {}/data -U tester -A trust --no-sync -E UTF8 --locale=C.UTF-8", bin_, home_)))
            return "initdb failed: " + logText();
        return begin();
    }
    /// Starts it again after stop(); `settings`: more of them, as for the server's command line. Where one listens at a
    /// port, the socket's name has it, too.
    std::string begin(const std::string& settings = "", int port = 5432) {
        port_ = port;
        if (!run(fmt::format("{0}/pg_ctl -D {1}/data -l {1}/server.log -w -t 60 -o \"-k {1} -p {2} {3} -c fsync=off -c "
                             "max_connections=40\" start",
                             bin_, home_, port, settings.empty() ? "-c listen_addresses=''" : settings)))
            return "the server did not start: " + logText();
        started_ = true;
        connection_ = PQconnectdb(fmt::format("host={} port={} user=tester dbname=postgres", home_, port).c_str());
        if (PQstatus(connection_) != CONNECTION_OK) return PQerrorMessage(connection_);
        query("SET plan_cache_mode = force_generic_plan");
        PQsetNoticeProcessor(
            connection_, [](void*, const char*) {}, nullptr);
        return "";
    }
    /// As by a power cut ("immediate"), or in order ("fast").
    void stop(const std::string& how) {
        if (connection_) PQfinish(std::exchange(connection_, nullptr));
        if (std::exchange(started_, false)) run(fmt::format("{}/pg_ctl -D {}/data -m {} stop", bin_, home_, how));
    }
    std::string socketPath() const { return fmt::format("{}/.s.PGSQL.{}", home_, port_); }
    /// A file of the server's own, in the folder of its data, that nobody else may read.
    std::string keep(const std::string& name, const std::string& text) {
        const std::string path = home_ + "/data/" + name;
        std::ofstream(path) << text;
        const bool isOurs = geteuid() != 0;  // who is root lets it run as nobody
        return chmod(path.c_str(), 0600) == 0 && (isOurs || chown(path.c_str(), 65534, 65534) == 0) ? "" : "not kept";
    }
    /// A connection URI to a database of the server.
    std::string address(const std::string& database = "postgres", const std::string& user = "tester") const {
        return fmt::format("postgresql://{}@/{}?host={}", user, database, home_);
    }
    /// Several statements; the first line of what went wrong, "" when nothing did.
    std::string execute(const std::string& sql) {
        PGresult* result = PQexec(connection_, sql.c_str());
        const ExecStatusType status = PQresultStatus(result);
        const std::string said = PQresultErrorMessage(result);
        PQclear(result);
        return status == PGRES_COMMAND_OK || status == PGRES_TUPLES_OK ? "" : said.substr(0, said.find('\n'));
    }
    /// A role that may log in with this password only; "" when it is in force.
    std::string makeRole(const std::string& name, const std::string& password) {
        std::string quoted;
        for (const char c : password) quoted += c == '\'' ? std::string("''") : std::string(1, c);
        if (std::string wrong = execute(fmt::format("CREATE ROLE {} LOGIN PASSWORD '{}'", name, quoted));
            !wrong.empty())
            return wrong;
        const std::string path = home_ + "/data/pg_hba.conf";
        std::ifstream in(path);
        const std::string rules{std::istreambuf_iterator<char>(in), {}};
        std::ofstream(path) << "local all " << name << " scram-sha-256\n" << rules;
        execute("SELECT pg_reload_conf()");
        for (int i = 0; i < 200; ++i) {
            PGconn* without = PQconnectdb(fmt::format("host={} user={} dbname=postgres", home_, name).c_str());
            const bool isRefused = PQconnectionNeedsPassword(without) != 0;
            PQfinish(without);
            if (isRefused) return "";
            usleep(20'000);
        }
        return "the server goes on without passwords";
    }
    PostgresServer() = default;
    PostgresServer(const PostgresServer&) = delete;
    PostgresServer& operator=(const PostgresServer&) = delete;
    ~PostgresServer() {
        stop("immediate");
        if (!home_.empty()) run("rm -rf " + home_);
        std::error_code ignored;
        std::filesystem::remove_all(home_, ignored);
    }

    PostgresAnswer query(const std::string& sql, const std::vector<std::optional<std::string>>& values = {}) {
        std::vector<const char*> pointers;
        for (const auto& value : values) pointers.push_back(value ? value->c_str() : nullptr);
        // Prepared with a generic plan: values are then not folded while planning, which would fail on parts not
        // reached.
        PGresult* prepared = PQprepare(connection_, "", sql.c_str(), 0, nullptr);
        PGresult* result = prepared;
        if (PQresultStatus(prepared) == PGRES_COMMAND_OK) {
            result =
                PQexecPrepared(connection_, "", static_cast<int>(values.size()), pointers.data(), nullptr, nullptr, 0);
            PQclear(prepared);
        }
        PostgresAnswer answer;
        const ExecStatusType status = PQresultStatus(result);
        answer.ok = status == PGRES_TUPLES_OK || status == PGRES_COMMAND_OK;
        if (!answer.ok) answer.error = PQresultErrorMessage(result);
        for (int i = 0; i < PQntuples(result); ++i)
            answer.cells.push_back(
                PQgetisnull(result, i, 0)
                    ? std::nullopt
                    : std::optional<std::string>(
                          std::string(PQgetvalue(result, i, 0), static_cast<std::size_t>(PQgetlength(result, i, 0)))));
        PQclear(result);
        return answer;
    }

  private:
    /// The server refuses to run as root.
    bool run(const std::string& command) const {
        const std::string log = home_ + "/command.log";
        const std::string line = fmt::format(
            "{}sh -c '{}' >>{} 2>&1", geteuid() == 0 ? "setpriv --reuid=65534 --regid=65534 --clear-groups " : "",
            escaped(command), log);
        return std::system(line.c_str()) == 0;
    }
    static std::string escaped(const std::string& text) {
        std::string out;
        for (const char c : text) out += c == '\'' ? std::string("'\\''") : std::string(1, c);
        return out;
    }
    std::string logText() const {
        std::string out;
        if (std::FILE* file = std::fopen((home_ + "/command.log").c_str(), "r")) {
            char buffer[2000];
            out.assign(buffer, std::fread(buffer, 1, sizeof buffer, file));
            std::fclose(file);
        }
        return out;
    }

    std::string bin_, home_;
    bool started_ = false;
    int port_ = 5432;
    PGconn* connection_ = nullptr;
};

}  // namespace jollyrow::test
