// SPDX-License-Identifier: GPL-3.0-or-later
#include "hearing/give_way.h"

#include <benchmark/benchmark.h>

#include <algorithm>
#include <cmath>
#include <cstdint>
#include <limits>
#include <vector>

/// What it costs to choose who sounds, each control step, when thousands of copies start in a second. The floor is picking the
/// loudest out of as many plain levels.
namespace
{

using namespace stone;

constexpr double step_s = 256.0 / 48'000.0;
constexpr double lasts_s = 0.2;

/// A level for each copy, the same each time.
double levelOf(std::uint64_t number)
{
    return -60.0 * static_cast<double>((number * 2'654'435'761U) % 1'000U) / 1'000.0;
}

/// The copies that are there when so many start in a second.
class Crowded
{
public:
    explicit Crowded(double starts_s) : starts_s_(starts_s) {}

    void goOn(double now_s)
    {
        while (static_cast<double>(next_) / starts_s_ <= now_s) {
            Copy copy;
            copy.key = next_;
            copy.emitter = static_cast<std::uint32_t>(next_ % 200);
            copy.began_s = static_cast<double>(next_) / starts_s_;
            copy.ends_s = copy.began_s + lasts_s;
            copy.level_db = levelOf(next_);
            copy.limits = {1U + copy.emitter % 20U, 21U + copy.emitter % 4U, 0U};
            copies_.push_back(copy);
            ++next_;
        }
        std::erase_if(copies_, [now_s](const Copy& copy) { return copy.ends_s <= now_s; });
    }
    const std::vector<Copy>& copies() const { return copies_; }

private:
    double starts_s_;
    std::uint64_t next_ = 0;
    std::vector<Copy> copies_;
};

std::vector<Limit> limits()
{
    std::vector<Limit> all{{.atOnce = 64}};
    for (int i = 0; i < 20; ++i) {
        all.push_back({.atOnce = 8, .holdOff_s = 0.001});
    }
    for (int i = 0; i < 4; ++i) {
        all.push_back({.atOnce = 24});
    }
    return all;
}

void chooseAmong(benchmark::State& state)
{
    // A second of it, made beforehand.
    std::vector<std::vector<Copy>> steps;
    Crowded crowd(static_cast<double>(state.range(0)));
    for (double now_s = lasts_s; now_s < 1.0 + lasts_s; now_s += step_s) {
        crowd.goOn(now_s);
        steps.push_back(crowd.copies());
    }
    GiveWay giveWay;
    const std::vector<Limit> all = limits();
    std::vector<GiveWay::Verdict> verdicts;
    std::size_t step = 0;
    for (auto _ : state) {
        if (step == steps.size()) {
            step = 0;
            giveWay.forget();
        }
        giveWay.decide(lasts_s + static_cast<double>(step) * step_s, steps[step], all, verdicts);
        benchmark::DoNotOptimize(verdicts.data());
        ++step;
    }
    state.counters["copies"] = static_cast<double>(crowd.copies().size());
}

/// As in most levels: everything goes on for ever, and there is room for it.
void nobodyGivesWay(benchmark::State& state)
{
    std::vector<Copy> copies(static_cast<std::size_t>(state.range(0)));
    for (std::size_t i = 0; i < copies.size(); ++i) {
        copies[i].key = static_cast<std::uint64_t>(i) << 32U;
        copies[i].ends_s = std::numeric_limits<double>::infinity();
        copies[i].level_db = levelOf(i);
        copies[i].limits[2] = 0;
    }
    GiveWay giveWay;
    const Limit limit{.atOnce = 4096};
    std::vector<GiveWay::Verdict> verdicts;
    double now_s = 0.0;
    for (auto _ : state) {
        now_s += step_s;
        giveWay.decide(now_s, copies, std::span(&limit, 1), verdicts);
        benchmark::DoNotOptimize(verdicts.data());
    }
}

void pickLoudestKernel(benchmark::State& state)
{
    const auto copies = static_cast<std::size_t>(static_cast<double>(state.range(0)) * lasts_s);
    std::vector<double> levels(copies);
    std::uint64_t number = 0;
    for (auto _ : state) {
        for (double& level : levels) {
            level = levelOf(number++);
        }
        const std::size_t most = std::min<std::size_t>(64, copies);
        std::nth_element(levels.begin(), levels.begin() + static_cast<std::ptrdiff_t>(most - 1), levels.end(),
                         std::greater<>());
        benchmark::DoNotOptimize(levels.data());
    }
}

} // namespace

BENCHMARK(pickLoudestKernel)->Arg(500)->Arg(10'000)->Unit(benchmark::kMicrosecond);
BENCHMARK(nobodyGivesWay)->Arg(10)->Arg(100)->Arg(400)->Unit(benchmark::kMicrosecond);
BENCHMARK(chooseAmong)->Arg(500)->Arg(10'000)->Unit(benchmark::kMicrosecond);
