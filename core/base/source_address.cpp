// SPDX-License-Identifier: MIT
#include "core/base/source_address.h"

#include <algorithm>

namespace jollyrow {
namespace {

/// What stands behind the scheme; "" of a path.
std::string_view behindScheme(std::string_view address) {
    for (const std::string_view scheme : {"postgresql://", "postgres://"})
        if (address.starts_with(scheme)) return address.substr(scheme.size());
    return {};
}

}  // namespace

bool isServerAddress(std::string_view address) { return behindScheme(address).data() != nullptr; }

std::string sourceKindOf(std::string_view address) { return isServerAddress(address) ? "postgresql" : "sqlite"; }

std::string sourceNameOf(std::string_view address) {
    if (!isServerAddress(address)) return std::string(address.substr(address.find_last_of('/') + 1));
    std::string_view rest = behindScheme(address);
    rest = rest.substr(0, rest.find_first_of("?#"));
    const std::size_t slash = std::min(rest.find('/'), rest.size());
    std::string_view host = rest.substr(0, slash);
    host = host.substr(host.find_last_of('@') == host.npos ? 0 : host.find_last_of('@') + 1);
    const std::string_view database = slash < rest.size() ? rest.substr(slash + 1) : std::string_view();
    std::string name = database.empty() ? "a server" : std::string(database);
    return host.empty() ? name : name + " at " + std::string(host);
}

}  // namespace jollyrow
