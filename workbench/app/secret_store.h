// SPDX-License-Identifier: MIT
#pragma once
// The desktop's store of secrets, where passwords of servers are kept by choice: by QtKeychain, which knows the store
// of each desktop. There is no other place that a password is written to; without a store it is asked for again.

#include <QString>

#include <functional>
#include <memory>
#include <optional>

namespace jollyrow {

class SecretStore {
  public:
    virtual ~SecretStore() = default;
    /// Calls back on this thread, later or at once; nothing when it has none or there is no store.
    virtual void read(const QString& address, std::function<void(std::optional<QString>)> found) = 0;
    /// "" when it is kept, else why not.
    virtual void write(const QString& address, const QString& password, std::function<void(QString)> done) = 0;
};

/// The one in use: the desktop's, unless a test has set its own. Window thread.
SecretStore& secretStore();
void setSecretStore(std::unique_ptr<SecretStore> store);

}  // namespace jollyrow
