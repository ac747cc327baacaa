// SPDX-License-Identifier: MPL-2.0
#include "takes/take_series.h"

#include "dsp/decibel.h"

#include <algorithm>
#include <cctype>
#include <cmath>
#include <functional>
#include <map>
#include <stdexcept>

namespace stone
{

namespace
{

std::string lower(std::string text)
{
    std::transform(text.begin(), text.end(), text.begin(), [](unsigned char c) { return static_cast<char>(std::tolower(c)); });
    return text;
}

std::optional<TermKind> termNamed(const std::string& name)
{
    for (std::size_t kind = 0; kind < termKinds; ++kind) {
        if (lower(termName(static_cast<TermKind>(kind))) == name) {
            return static_cast<TermKind>(kind);
        }
    }
    return {};
}

/// A value of a moment as a whole.
using OfMoment = double (*)(const TakenMoment&);

const std::map<std::string, std::pair<OfMoment, const char*>>& wholes()
{
    static const std::map<std::string, std::pair<OfMoment, const char*>> all{
        {"voices", {[](const TakenMoment& m) { return static_cast<double>(m.voices); }, ""}},
        {"loudness", {[](const TakenMoment& m) { return m.momentary_lufs; }, "LUFS"}},
        {"short-term", {[](const TakenMoment& m) { return m.shortTerm_lufs; }, "LUFS"}},
        {"integrated", {[](const TakenMoment& m) { return m.integrated_lufs; }, "LUFS"}},
        {"peak", {[](const TakenMoment& m) { return m.peak_db; }, "dB"}}};
    return all;
}

} // namespace

double together_db(double a_db, double b_db)
{
    const double power = std::pow(10.0, a_db / 10.0) + std::pow(10.0, b_db / 10.0);
    return power > 0.0 ? 10.0 * std::log10(power) : silence_db;
}

std::optional<std::uint32_t> emitterIn(const Take& take, const std::string& nameOrId)
{
    const auto& emitters = take.emitters();
    for (std::uint32_t i = 0; i < emitters.size(); ++i) {
        if (emitters[i].name == nameOrId || emitters[i].id.text == nameOrId) {
            return i;
        }
    }
    return {};
}

std::vector<std::string> seriesNames()
{
    std::vector<std::string> names{"level", "copies", "gave-way", "distance-m", "cpu", "memory"};
    for (const auto& [name, what] : wholes()) {
        names.push_back(name);
    }
    return names;
}

TakeSeries seriesOf(const Take& take, const std::string& what, const std::string& emitter)
{
    std::optional<std::uint32_t> of;
    if (!emitter.empty()) {
        of = emitterIn(take, emitter);
        if (!of) {
            throw std::invalid_argument("the take has no emitter called \"" + emitter + "\"");
        }
    }
    const std::string key = lower(what);
    TakeSeries series;
    series.name = (of ? take.emitters()[*of].name + ": " : std::string()) + what;
    if (key == "cpu" || key == "memory") {
        series.unit = key == "cpu" ? "%" : "MB";
        for (const TakenCost& cost : take.costs()) {
            const double share = cost.costs.span_s > 0.0 ? 100.0 * cost.costs.total_s() / cost.costs.span_s : 0.0;
            series.points.emplace_back(cost.t_s, key == "cpu" ? share : cost.memory_bytes / 1e6);
        }
        return series;
    }
    if (const auto whole = wholes().find(key); whole != wholes().end()) {
        series.unit = whole->second.second;
        take.eachMoment([&](const TakenMoment& moment) {
            series.points.emplace_back(moment.t_s, whole->second.first(moment));
            return true;
        });
        return series;
    }
    const auto& values = take.values();
    const auto value = std::find_if(values.begin(), values.end(),
                                    [&](const Take::Named& named) { return lower(named.name) == key || named.id == what; });
    if (value != values.end()) {
        const auto index = static_cast<std::size_t>(value - values.begin());
        take.eachMoment([&](const TakenMoment& moment) {
            if (index < moment.values.size()) {
                series.points.emplace_back(moment.t_s, moment.values[index]);
            }
            return true;
        });
        return series;
    }
    const bool counts = key == "copies" || key == "gave-way";
    const auto term = termNamed(key);
    if (key != "level" && key != "distance-m" && !counts && !term) {
        throw std::invalid_argument("a take has no \"" + what +
                                    "\": ask for level, copies, gave-way, distance-m, voices, cpu, memory, "
                                    "loudness, short-term, integrated, peak, a line of the Ledger or a game value");
    }
    if (!of && (term || key == "distance-m")) {
        throw std::invalid_argument("\"" + what + "\" is of one emitter: say which");
    }
    series.unit = counts ? "" : key == "distance-m" ? "m" : "dB";
    take.eachMoment([&](const TakenMoment& moment) {
        double sum = counts ? 0.0 : silence_db;
        const TakenCopy* loudest = nullptr;
        for (const TakenCopy& copy : moment.copies) {
            if (of && take.copies()[copy.copy].emitter != *of) {
                continue;
            }
            if (counts) {
                sum += (key == "copies" ? copy.audible : copy.gaveWay.has_value()) ? 1.0 : 0.0;
            } else if (key == "level") {
                sum = copy.audible ? together_db(sum, copy.level_db) : sum;
            }
            if (loudest == nullptr || copy.level_db > loudest->level_db) {
                loudest = &copy;
            }
        }
        if (counts || key == "level") {
            series.points.emplace_back(moment.t_s, sum);
        } else if (loudest != nullptr && key == "distance-m") {
            series.points.emplace_back(moment.t_s, glm::length(loudest->at - moment.ears.at));
        } else if (loudest != nullptr) {
            double db = 0.0;
            for (const Term& line : loudest->terms) {
                db += line.kind == *term ? line.db : 0.0;
            }
            series.points.emplace_back(moment.t_s, db);
        }
        return true;
    });
    return series;
}

} // namespace stone
