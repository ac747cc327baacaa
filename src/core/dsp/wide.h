// SPDX-License-Identifier: MPL-2.0
#pragma once

/// STONE_WIDE before a function: it is compiled twice, for registers of eight numbers and for what every processor of the kind
/// has, and which is used is chosen when the program starts. Neither way fuses products and sums, so the bytes are the same.
/// Sanitizers are not ready yet when that choice is made. STONE_NARROW leaves the first out.
#if defined(__x86_64__) && !defined(STONE_NARROW) && !defined(__clang__) && !defined(__SANITIZE_ADDRESS__) &&                  \
    !defined(__SANITIZE_THREAD__)
#define STONE_WIDE __attribute__((target_clones("avx2", "default")))
#else
#define STONE_WIDE
#endif
