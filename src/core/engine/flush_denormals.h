// SPDX-License-Identifier: MPL-2.0
#pragma once

#if defined(__SSE__)
#include <xmmintrin.h>
#endif

namespace stone
{

/// While it lives the processor treats numbers too small to hear as zero on this thread: they would cost a hundred times as
/// much.
class FlushDenormals
{
public:
#if defined(__SSE__)
    FlushDenormals() : before_(_mm_getcsr())
    {
        _mm_setcsr(before_ | 0x8040U);
    }
    ~FlushDenormals()
    {
        _mm_setcsr(before_);
    }

private:
    unsigned before_;
#else
    FlushDenormals() = default;
#endif
public:
    FlushDenormals(const FlushDenormals&) = delete;
    FlushDenormals& operator=(const FlushDenormals&) = delete;
};

} // namespace stone
