// SPDX-License-Identifier: MIT
#pragma once
// Passwords that a person or an application has given for servers: in this process's memory, nowhere else. What asks
// for them keeps them longer, if at all. Any thread may call these.

#include <optional>
#include <string>

namespace jollyrow {

/// For this address, written as it is opened, from now on; an older one is overwritten, in memory too. Opening it again
/// then goes on after an error of ErrorCode::NeedsPassword.
void setPassword(const std::string& address, std::string password);
void forgetPassword(const std::string& address);
std::optional<std::string> passwordOf(const std::string& address);

}  // namespace jollyrow
