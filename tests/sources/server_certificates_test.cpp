// SPDX-License-Identifier: MIT
// Connections by TLS, their server proven by a certificate of an authority that the test makes itself.
#include <QtTest>

#include <QProcess>
#include <QTemporaryDir>

#include <arpa/inet.h>
#include <sys/socket.h>
#include <unistd.h>

#include "core/sources/source.h"
#include "tests/rules/postgres_server.h"

using namespace jollyrow;

class ServerCertificatesTest : public QObject {
    Q_OBJECT
    test::PostgresServer server_;
    QTemporaryDir folder_;
    int port_ = 0;

    QString file(const QString& name) const { return folder_.filePath(name); }
    bool makes(const QStringList& arguments) const {
        QProcess openssl;
        openssl.setWorkingDirectory(folder_.path());
        openssl.start("openssl", arguments);
        return openssl.waitForFinished(60'000) && openssl.exitCode() == 0;
    }
    /// A certificate for `host`, signed by an authority.
    bool makesCertificate(const QString& name, const QString& host, const QString& authority) const {
        QFile names(file(name + ".ext"));
        if (!names.open(QIODevice::WriteOnly)) return false;
        names.write(("subjectAltName=DNS:" + host).toUtf8());
        names.close();
        return makes({"req", "-new", "-newkey", "rsa:2048", "-nodes", "-subj", "/CN=" + host, "-keyout", name + ".key",
                      "-out", name + ".csr"}) &&
               makes({"x509", "-req", "-in", name + ".csr", "-CA", authority + ".crt", "-CAkey", authority + ".key",
                      "-CAcreateserial", "-days", "2", "-extfile", name + ".ext", "-out", name + ".crt"});
    }
    bool makesAuthority(const QString& name) const {
        return makes({"req", "-x509", "-newkey", "rsa:2048", "-nodes", "-days", "2", "-subj", "/CN=" + name, "-keyout",
                      name + ".key", "-out", name + ".crt"});
    }
    static int freePort() {
        const int probe = socket(AF_INET, SOCK_STREAM, 0);
        sockaddr_in at{};
        at.sin_family = AF_INET;
        at.sin_addr.s_addr = htonl(INADDR_LOOPBACK);
        socklen_t size = sizeof at;
        bind(probe, reinterpret_cast<sockaddr*>(&at), size);
        getsockname(probe, reinterpret_cast<sockaddr*>(&at), &size);
        close(probe);
        return ntohs(at.sin_port);
    }
    Error whyNot(const QString& host, const QString& mode, const QString& authority) const {
        const QString address =
            QString("postgresql://tester@%1:%2/postgres?sslmode=%3&sslrootcert=%4&hostaddr=127.0.0.1")
                .arg(host)
                .arg(port_)
                .arg(mode, file(authority + ".crt"));
        const auto tables = (*openSource(address.toStdString()))->tables();
        return tables ? Error{ErrorCode::InvalidInput, ""} : tables.error();
    }

  private Q_SLOTS:
    void initTestCase() {
        if (!makes({"version"})) QSKIP("openssl is not installed");
        QVERIFY(makesAuthority("harbour") && makesAuthority("stranger"));
        QVERIFY(makesCertificate("server", "db.yard.test", "harbour"));
        QCOMPARE(server_.start(), std::string());
        port_ = freePort();
        const auto text = [this](const char* name) {
            QFile of(file(name));
            return of.open(QIODevice::ReadOnly) ? of.readAll().toStdString() : std::string();
        };
        QCOMPARE(server_.keep("server.crt", text("server.crt")), std::string());
        QCOMPARE(server_.keep("server.key", text("server.key")), std::string());
        server_.stop("fast");
        QCOMPARE(server_.begin("-c ssl=on -c listen_addresses=127.0.0.1", port_), std::string());
    }

    void theRightAuthorityAndTheRightName() {
        QCOMPARE(QString::fromStdString(whyNot("db.yard.test", "verify-full", "harbour").message), QString());
        QCOMPARE(QString::fromStdString(whyNot("db.yard.test", "require", "harbour").message), QString());
    }

    /// Somebody who stands between, with a certificate of another's: nothing is said to him, and it is said why.
    void othersAreNotBelieved() {
        const Error stranger = whyNot("db.yard.test", "verify-full", "stranger");
        QCOMPARE(stranger.code, ErrorCode::Io);
        QVERIFY2(stranger.message.find("certificate verify failed") != std::string::npos, stranger.message.c_str());
        const Error name = whyNot("db.elsewhere.test", "verify-full", "harbour");
        QCOMPARE(name.code, ErrorCode::Io);
        QVERIFY2(name.message.find("db.yard.test") != std::string::npos &&
                     name.message.find("db.elsewhere.test") != std::string::npos,
                 name.message.c_str());
        QCOMPARE(QString::fromStdString(whyNot("db.elsewhere.test", "verify-ca", "harbour").message), QString());
        const Error missing = whyNot("db.yard.test", "verify-full", "nobody");
        QVERIFY2(missing.message.find("nobody.crt") != std::string::npos, missing.message.c_str());
    }
};

QTEST_GUILESS_MAIN(ServerCertificatesTest)
#include "server_certificates_test.moc"
