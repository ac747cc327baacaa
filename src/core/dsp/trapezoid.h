// SPDX-License-Identifier: MPL-2.0
#pragma once

namespace stone
{

/// One frame of a state-variable filter by trapezoidal integration (A. Simper, "Linear Trapezoidal State Variable Filter",
/// 2013): what its band-pass and its low-pass give; all other shapes are mixed from these and the input.
class Trapezoid
{
public:
    struct Out {
        float band;
        float low;
    };

    /// `g`: the tangent of pi times the cut-off over the rate; `k`: one over the quality.
    Trapezoid(float g, float k) : a1_(1.0F / (1.0F + g * (g + k))), a2_(g * a1_), a3_(g * a2_) {}

    /// Takes a sample; the two integrators move on.
    Out step(float sample, float& first, float& second) const
    {
        const float v3 = sample - second;
        const Out out{a1_ * first + a2_ * v3, second + a2_ * first + a3_ * v3};
        first = 2.0F * out.band - first;
        second = 2.0F * out.low - second;
        return out;
    }

private:
    float a1_;
    float a2_;
    float a3_;
};

} // namespace stone
