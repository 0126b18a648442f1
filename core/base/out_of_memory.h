// SPDX-License-Identifier: MIT
#pragma once
// Runs work whose size others decide (a load, a rule) so that too little memory is an error that is said.

#include <new>
#include <stdexcept>

#include "core/base/result.h"

namespace jollyrow {

/// What `work` returns, or an Error that says what there was no memory for. `doing` begins a sentence: "Loading".
template <class Work>
auto withinMemory(const char* doing, const Work& work) -> decltype(work()) {
    const auto failed = [doing] {
        return Error{ErrorCode::Io,
                     std::string(doing) + " takes more memory than there is. Read fewer columns or records."};
    };
    try {
        return work();
    } catch (const std::bad_alloc&) {
        return failed();
    } catch (const std::length_error&) {  // a container asked for more than there can be
        return failed();
    }
}

}  // namespace jollyrow
