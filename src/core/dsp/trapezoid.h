// SPDX-License-Identifier: MPL-2.0
#pragma once

/// State-variable filters by trapezoidal integration (A. Simper, "Linear Trapezoidal State Variable Filter", 2013). With g the
/// gain of an integrator (the tangent of pi times the cut-off over the rate), k one over the quality, a1 = 1 / (1 + g (g + k)),
/// a2 = g a1, a3 = g a2 and v3 = in - second:
///
///     band = a1 first + a2 v3,             low = second + a2 first + a3 v3,
///     first becomes 2 band - first,        second becomes 2 low - second.
///
/// A frame waits for the one before through the integrators, so band and low are put into what they become: three operations
/// one after the other instead of five.
namespace stone
{

/// One frame at a time: what the band-pass and the low-pass give; all other shapes are mixed from these and the input.
class Trapezoid
{
public:
    struct Out {
        float band;
        float low;
    };

    /// `g` and `k` as above.
    Trapezoid(float g, float k) : a1_(1.0F / (1.0F + g * (g + k))), a2_(g * a1_), a3_(g * a2_) {}

    /// Takes a sample; the two integrators move on.
    Out step(float sample, float& first, float& second) const
    {
        const float v3 = sample - second;
        const Out out{a1_ * first + a2_ * v3, (second + a2_ * first) + a3_ * v3};
        second = (second + push_ * first) + pull_ * v3;
        first = keep_ * first + push_ * v3;
        return out;
    }

private:
    float a1_;
    float a2_;
    float a3_;
    float keep_ = 2.0F * a1_ - 1.0F;
    float push_ = 2.0F * a2_;
    float pull_ = 2.0F * a3_;
};

/// What a section multiplies with whose output is high in + band band + low low: the same for one number and for several side
/// by side.
template <typename Number> struct TrapezoidMix {
    Number keep;       ///< 2 a1 - 1, of what the first integrator holds
    Number push;       ///< 2 a2, from either integrator to the other
    Number pull;       ///< 2 a3, of what the second one lacks
    Number through;    ///< of what goes in; this and the next two make what comes out
    Number fromFirst;  ///< of what the first integrator held
    Number fromSecond; ///< of what the second one held

    void set(const Number& g, const Number& k, const Number& high, const Number& band, const Number& low)
    {
        const Number a1 = 1.0F / (1.0F + g * (g + k));
        const Number a2 = g * a1;
        const Number a3 = g * a2;
        keep = 2.0F * a1 - 1.0F;
        push = 2.0F * a2;
        pull = 2.0F * a3;
        const Number ahead = band * a2 + low * a3;
        through = high + ahead;
        fromFirst = band * a1 + low * a2;
        fromSecond = low - ahead;
    }

    /// Takes each number over from the one that stands for the same in another: take(mine, other's).
    template <typename Other, typename Take> void takeEach(const TrapezoidMix<Other>& from, const Take& take)
    {
        take(keep, from.keep);
        take(push, from.push);
        take(pull, from.pull);
        take(through, from.through);
        take(fromFirst, from.fromFirst);
        take(fromSecond, from.fromSecond);
    }

    /// Takes what goes in; the two integrators move on.
    __attribute__((always_inline)) void step(const Number& in, Number& first, Number& second, Number& out) const
    {
        const Number v3 = in - second;
        out = through * in + (fromFirst * first + fromSecond * second);
        second = (second + push * first) + pull * v3;
        first = keep * first + push * v3;
    }
};

} // namespace stone
