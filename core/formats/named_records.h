// SPDX-License-Identifier: MIT
#pragma once
// NamedRecords: which record of a look-up's table is meant by a name that was typed elsewhere, e.g. pasted.

#include <cstddef>
#include <map>
#include <string>
#include <vector>

#include "core/base/result.h"
#include "core/columns/look_up.h"

namespace jollyrow {

/// A name is the label of one record, or else the key of one, as both are written plainly. Immutable.
class NamedRecords final {
  public:
    /// `entries`: all records of the names that will be asked for (LookUpRequest::called); others do no harm.
    explicit NamedRecords(std::vector<LookUpEntry> entries);
    /// Fails in words when no record, or more than one, is called so. O(log entries).
    Result<LookUpEntry> called(const std::string& name) const;

  private:
    std::vector<LookUpEntry> entries_;
    std::multimap<std::string, std::size_t> byLabel_, byKey_;
};

}  // namespace jollyrow
