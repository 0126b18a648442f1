// SPDX-License-Identifier: MIT
// What a server says before it lets us in, told word for word by one that is played: starting, full, too old, of an
// unknown encoding, no server at all. Each is said in words and in time; nothing is asked of it that it has not
// offered.
#include <QtTest>

#include <poll.h>
#include <sys/socket.h>
#include <unistd.h>

#include <array>
#include <atomic>
#include <thread>

#include <fmt/format.h>

#include "core/sources/source.h"
#include "tests/sources/loopback.h"

using namespace jollyrow;

namespace {

/// A message of the protocol, version 3: its kind, its length, what it says (PostgreSQL 15 manual, 55.7).
std::string message(char kind, const std::string& body) {
    const auto size = static_cast<std::uint32_t>(body.size() + 4);
    std::string out(1, kind);
    for (int shift = 24; shift >= 0; shift -= 8) out.push_back(static_cast<char>(size >> shift));
    return out + body;
}
std::string text(const std::string& words) { return words + std::string(1, '\0'); }
std::string refusal(const std::string& state, const std::string& words) {
    return message('E', text("SFATAL") + text("VFATAL") + text("C" + state) + text("M" + words) + std::string(1, '\0'));
}
std::string welcome(const std::string& version, const std::string& encoding) {
    const auto setting = [](const char* name, const std::string& value) {
        return message('S', text(name) + text(value));
    };
    return message('R', std::string(4, '\0')) + setting("server_version", version) +
           setting("server_encoding", encoding) + setting("client_encoding", "UTF8") +
           message('K', std::string(8, '\1')) + message('Z', "I");
}

/// Hears the startup message, says its part, and hangs up when the client does, or at once.
class PlayedServer {
  public:
    explicit PlayedServer(std::string says, bool hangsUp = true) : says_(std::move(says)), hangsUp_(hangsUp) {
        const test::Loopback made = test::listenOnLoopback();
        listener_ = made.socket;
        port_ = made.port;
        thread_ = std::thread([this] { plays(); });
    }
    PlayedServer(const PlayedServer&) = delete;
    PlayedServer& operator=(const PlayedServer&) = delete;
    ~PlayedServer() {
        isOver_ = true;
        thread_.join();
        close(listener_);
    }
    std::string address() const {
        return fmt::format("postgresql://tester@127.0.0.1:{}/yard?sslmode=disable&connect_timeout=2", port_);
    }
    /// Bytes that came after the startup message.
    int askedBeyond() const { return askedBeyond_; }

  private:
    bool waits(int socket) const {
        pollfd one{socket, POLLIN, 0};
        while (!isOver_)
            if (poll(&one, 1, 20) > 0) return true;
        return false;
    }
    void plays() {
        while (!isOver_) {
            if (!waits(listener_)) return;
            const int client = accept(listener_, nullptr, nullptr);
            std::array<char, 4096> bytes;
            if (waits(client) && read(client, bytes.data(), bytes.size()) > 0)
                for (std::size_t done = 0; done < says_.size();) {
                    const auto count = send(client, says_.data() + done, says_.size() - done, MSG_NOSIGNAL);
                    if (count <= 0) break;
                    done += static_cast<std::size_t>(count);
                }
            while (!hangsUp_ && waits(client)) {
                const auto count = read(client, bytes.data(), bytes.size());
                if (count <= 0) break;
                if (bytes[0] != 'X') askedBeyond_ += static_cast<int>(count);  // X: it takes its leave
            }
            close(client);
        }
    }
    std::string says_;
    bool hangsUp_;
    int listener_ = -1, port_ = 0;
    std::atomic<bool> isOver_{false};
    std::atomic<int> askedBeyond_{0};
    std::thread thread_;
};

}  // namespace

class ServerWelcomeTest : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void whatItSaysIsToldOn_data() {
        QTest::addColumn<QByteArray>("says");
        QTest::addColumn<ErrorCode>("code");
        QTest::addColumn<QString>("words");
        const auto row = [](const char* name, const std::string& says, ErrorCode code, const char* words) {
            QTest::newRow(name) << QByteArray(says.data(), static_cast<int>(says.size())) << code << words;
        };
        row("starting", refusal("57P03", "the database system is starting up"), ErrorCode::Locked,
            "starting or stopping (the database system is starting up). Try again");
        row("stopping", refusal("57P03", "the database system is shutting down"), ErrorCode::Locked, "shutting down");
        row("in another language", refusal("57P03", "das Datenbanksystem startet"), ErrorCode::Locked,
            "das Datenbanksystem startet");
        row("full", refusal("53300", "sorry, too many clients already"), ErrorCode::Locked, "no room for another");
        row("no such database", refusal("3D000", "database \"yard\" does not exist"), ErrorCode::NotFound,
            "does not exist");
        row("not let in", refusal("28000", "no pg_hba.conf entry for host"), ErrorCode::Io, "no pg_hba.conf entry");
        row("too old", welcome("9.6.24", "UTF8"), ErrorCode::Unsupported, "PostgreSQL 9; 12 is the oldest");
        row("a little too old", welcome("11.22 (Debian 11.22-1)", "UTF8"), ErrorCode::Unsupported, "PostgreSQL 11;");
        row("of no known encoding", welcome("15.4", "SQL_ASCII"), ErrorCode::Unsupported, "SQL_ASCII");
        row("hangs up", "", ErrorCode::Io, "cannot be reached");
        row("another kind of server", "HTTP/1.1 400 Bad Request\r\n\r\n", ErrorCode::Io, "cannot be reached");
        row("hangs up in mid-word", refusal("57P03", "the database").substr(0, 20), ErrorCode::Io, "cannot be reached");
        row("nothing but a length", std::string("E\xff\xff\xff\xff", 5), ErrorCode::Io, "cannot be reached");
        row("an error without words", message('E', std::string(1, '\0')), ErrorCode::Io, "cannot be reached");
    }
    void whatItSaysIsToldOn() {
        QFETCH(QByteArray, says);
        QFETCH(ErrorCode, code);
        QFETCH(QString, words);
        PlayedServer server(says.toStdString());
        const auto opened = openSource(server.address());
        // A source may be opened late: then it is told by what is asked first.
        const auto tables = opened ? (*opened)->tables(Cancel()) : Result<std::vector<TableSummary>>(opened.error());
        QVERIFY(!tables);
        QVERIFY2(QString::fromStdString(tables.error().message).contains(words), tables.error().message.c_str());
        QCOMPARE(tables.error().code, code);
    }

    /// One that is not known here is left without a question; one that says nothing is not waited for without end.
    void nothingIsAskedOfAnOldOne() {
        PlayedServer server(welcome("10.3", "UTF8"), false);
        const auto opened = openSource(server.address());
        const auto tables = opened ? (*opened)->tables(Cancel()) : Result<std::vector<TableSummary>>(opened.error());
        QVERIFY(!tables);
        QCOMPARE(server.askedBeyond(), 0);
        PlayedServer silent("", false);
        const auto late = openSource(silent.address());
        const auto never = late ? (*late)->tables(Cancel()) : Result<std::vector<TableSummary>>(late.error());
        QVERIFY(!never);
        QVERIFY2(QString::fromStdString(never.error().message).contains("did not answer within 2 seconds"),
                 never.error().message.c_str());
    }
};

QTEST_GUILESS_MAIN(ServerWelcomeTest)
#include "server_welcome_test.moc"
