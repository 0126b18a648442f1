// SPDX-License-Identifier: MIT
#pragma once
// How much of a random test a sanitizer run does: it looks for faults of memory and threads, which a part shows, and
// takes many times longer for each turn. The release run does all of it.

namespace jollyrow::test {

#if defined(__SANITIZE_ADDRESS__) || defined(__SANITIZE_THREAD__)
inline constexpr bool kSanitized = true;
#elif defined(__has_feature)
#if __has_feature(address_sanitizer) || __has_feature(thread_sanitizer)
inline constexpr bool kSanitized = true;
#else
inline constexpr bool kSanitized = false;
#endif
#else
inline constexpr bool kSanitized = false;
#endif

/// `all` turns, or the part that a sanitizer run takes.
constexpr int turns(int all) { return kSanitized ? (all + 7) / 8 : all; }

}  // namespace jollyrow::test
