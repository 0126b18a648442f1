// SPDX-License-Identifier: MIT
// Covered by tests/workbench/tst_server.cpp, with a store of the test's own.
#include "workbench/app/secret_store.h"

#include <qt6keychain/keychain.h>

namespace jollyrow {
namespace {

const QString kService = QStringLiteral("Jolly Row");

/// A job deletes itself when it has finished.
class DesktopStore final : public SecretStore {
  public:
    void read(const QString& address, std::function<void(std::optional<QString>)> found) override {
        auto* job = new QKeychain::ReadPasswordJob(kService);
        job->setKey(address);
        job->setInsecureFallback(false);
        QObject::connect(job, &QKeychain::Job::finished, job, [job, found = std::move(found)] {
            found(job->error() == QKeychain::NoError ? std::optional(job->textData()) : std::nullopt);
        });
        job->start();
    }

    void write(const QString& address, const QString& password, std::function<void(QString)> done) override {
        auto* job = new QKeychain::WritePasswordJob(kService);
        job->setKey(address);
        job->setTextData(password);
        job->setInsecureFallback(false);
        QObject::connect(job, &QKeychain::Job::finished, job, [job, done = std::move(done)] {
            done(job->error() == QKeychain::NoError ? QString() : job->errorString());
        });
        job->start();
    }
};

std::unique_ptr<SecretStore>& present() {
    static std::unique_ptr<SecretStore> store = std::make_unique<DesktopStore>();
    return store;
}

}  // namespace

SecretStore& secretStore() { return *present(); }
void setSecretStore(std::unique_ptr<SecretStore> store) { present() = std::move(store); }

}  // namespace jollyrow
