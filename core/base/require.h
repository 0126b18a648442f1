// SPDX-License-Identifier: MIT
#pragma once
// JOLLYROW_REQUIRE(condition) checks what a header's "Requires:" line asks of callers, in builds that are made to find
// mistakes (JOLLYROW_CHECKED, which the sanitizer builds set); elsewhere it costs nothing. ConfinedToThread does the
// same for "confined to the thread that made it".

#include <thread>

#ifdef JOLLYROW_CHECKED
#include <cstdio>
#include <cstdlib>
#define JOLLYROW_REQUIRE(condition)                                                                          \
    do {                                                                                                     \
        if (!(condition)) {                                                                                  \
            std::fprintf(stderr, "%s:%d: the caller did not keep to: %s\n", __FILE__, __LINE__, #condition); \
            std::abort();                                                                                    \
        }                                                                                                    \
    } while (false)
#else
#define JOLLYROW_REQUIRE(condition) static_cast<void>(0)
#endif

namespace jollyrow {

class ConfinedToThread final {
  public:
#ifdef JOLLYROW_CHECKED
    bool isHere() const { return std::this_thread::get_id() == owner_; }

  private:
    std::thread::id owner_ = std::this_thread::get_id();
#else
    static bool isHere() { return true; }
#endif
};

}  // namespace jollyrow
