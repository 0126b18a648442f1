// SPDX-License-Identifier: MIT
// Covered by tests/sources/postgres_test.cpp.
#include "core/sources/credentials.h"

#include <map>
#include <mutex>

namespace jollyrow {
namespace {

/// Overwritten before it goes: memory is swapped out and looked into. Through a volatile pointer, else the compiler
/// leaves out what nobody reads.
void wipe(std::string& secret) {
    volatile char* at = secret.data();
    for (std::size_t i = 0; i < secret.size(); ++i) at[i] = 0;
    secret.clear();
}

class Credentials final {
  public:
    ~Credentials() {
        for (auto& [address, password] : passwords_) wipe(password);
    }
    void set(const std::string& address, std::string password) {
        const std::lock_guard lock(mutex_);
        std::string& kept = passwords_[address];
        kept.swap(password);
        wipe(password);
    }
    void forget(const std::string& address) {
        const std::lock_guard lock(mutex_);
        const auto known = passwords_.find(address);
        if (known == passwords_.end()) return;
        wipe(known->second);
        passwords_.erase(known);
    }
    std::optional<std::string> of(const std::string& address) const {
        const std::lock_guard lock(mutex_);
        const auto known = passwords_.find(address);
        return known == passwords_.end() ? std::nullopt : std::optional(known->second);
    }

  private:
    mutable std::mutex mutex_;
    std::map<std::string, std::string> passwords_;  // guarded by mutex_
};

Credentials& credentials() {
    static Credentials all;
    return all;
}

}  // namespace

void setPassword(const std::string& address, std::string password) { credentials().set(address, std::move(password)); }
void forgetPassword(const std::string& address) { credentials().forget(address); }
std::optional<std::string> passwordOf(const std::string& address) { return credentials().of(address); }

}  // namespace jollyrow
