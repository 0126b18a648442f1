// SPDX-License-Identifier: MIT
#pragma once
// EarlierFilters: what a person has filtered by and taken away, the latest first, to bring back; kept over sessions in
// the user's state folder, in a file for each table of a source that only the user may read. Window's thread.

#include <cstddef>
#include <string>
#include <vector>

#include "core/design/design.h"

namespace jollyrow {

class EarlierFilters final {
  public:
    using Filter = std::vector<FilterDesign>;
    static constexpr std::size_t kMost = 8;

    /// Those of a table. `folder` "": none are kept past this grid. A file that cannot be read is as none.
    void open(const std::string& folder, const std::string& source, const std::string& table);
    /// `before` is what was filtered by until now; noted when a condition of it is gone from `now`.
    void changed(const Filter& before, const Filter& now);
    const std::vector<Filter>& all() const { return all_; }
    /// Something was taken away since the table was opened.
    bool isFresh() const { return isFresh_; }

  private:
    void read();
    void write() const;

    std::string path_;  ///< "" = nowhere
    std::vector<Filter> all_;
    bool isFresh_ = false;
};

}  // namespace jollyrow
