// SPDX-License-Identifier: MPL-2.0
#include "takes/take_page.h"

#include "analysis/words.h"
#include "media/base64.h"
#include "project/file_error.h"
#include "project/read.h"
#include "takes/sound_chunk.h"
#include "takes/take_compare.h"
#include "takes/take_findings.h"
#include "takes/take_layers.h"
#include "world/carriage.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <cstdio>
#include <optional>

namespace stone
{

namespace
{

// The page's own drawing units.
constexpr double width = 1'000.0;
constexpr double strataHeight = 260.0;
constexpr double planHeight = 420.0;
/// More layers cannot be told apart on a page.
constexpr std::size_t mostLayers = 24;
constexpr double about_m = 6.0;

std::string number(double value, int decimals)
{
    if (!std::isfinite(value)) {
        return "–";
    }
    std::array<char, 48> text{};
    std::snprintf(text.data(), text.size(), "%.*f", decimals, value);
    std::string out(text.data());
    return out.starts_with('-') ? "−" + out.substr(1) : out;
}

/// For coordinates: ASCII all through.
std::string plain(double value)
{
    std::array<char, 48> text{};
    std::snprintf(text.data(), text.size(), "%.1f", value);
    return text.data();
}

const char* colourOf(EmitterKind kind)
{
    switch (kind) {
    case EmitterKind::point: return "#B3761B";
    case EmitterKind::bed: return "#2B7D6D";
    case EmitterKind::area: return "#345590";
    case EmitterKind::sprinkle: return "#74497F";
    case EmitterKind::roamer: return "#5B7A2A";
    case EmitterKind::steps: return "#7B5B45";
    case EmitterKind::pulse: return "#9C4F2E";
    }
    return "#6B665C";
}

/// The way that was gone, and what stood by it, from above.
class PlanDrawing
{
public:
    explicit PlanDrawing(const Take& take)
    {
        take.eachMoment([this](const TakenMoment& moment) {
            const bool due = way_.empty() || moment.t_s - times_.back() >= 0.24;
            if (due) {
                times_.push_back(moment.t_s);
                way_.push_back(moment.ears);
            }
            return true;
        });
        try {
            if (!take.documents().empty()) {
                const Project project = readProjectText(take.documentText(take.documents().size() - 1), "take").project;
                if (const Level* level = project.levels.find({take.info().levelId})) {
                    emitters_ = level->emitters;
                    for (const auto& room : level->rooms) {
                        addOutlines(room->shape, frameAt(room->at, room->heading_deg), room->name);
                    }
                    for (const auto& opening : level->openings) {
                        openings_.emplace_back(opening->from, opening->to);
                    }
                }
            }
        } catch (const FileError&) {
            // Without its document only the way is drawn.
        }
        fit();
    }

    std::string svg() const
    {
        std::string rooms;
        for (const auto& [name, outline] : rooms_) {
            rooms += "<polygon class=\"room\" points=\"";
            for (const Vec2& corner : outline) {
                rooms += point({corner, 0.0}) + ' ';
            }
            rooms += "\"><title>" + escapedMarkup(name) + "</title></polygon>";
        }
        for (const auto& [from, to] : openings_) {
            rooms += "<polyline class=\"opening\" points=\"" + point({from, 0.0}) + ' ' + point({to, 0.0}) + "\"/>";
        }
        std::string out = "<svg id=\"plan\" viewBox=\"0 0 " + plain(width) + ' ' + plain(planHeight) + "\">" + rooms +
                          "<polyline class=\"way\" points=\"";
        for (const Pose& pose : way_) {
            out += point(pose.at) + ' ';
        }
        out += "\"/>";
        for (const auto& emitter : emitters_) {
            if (emitter->kind == EmitterKind::bed || isOfCharacter(emitter->kind)) {
                continue;
            }
            const auto [x, y] = at(emitter->at);
            if (x < 0.0 || x > width || y < 0.0 || y > planHeight) {
                continue;
            }
            out += "<g><circle r=\"4\" cx=\"" + plain(x) + "\" cy=\"" + plain(y) + "\" fill=\"" + colourOf(emitter->kind) +
                   "\"/><title>" + escapedMarkup(emitter->name) + "</title></g>";
        }
        return out + "<g id=\"ears\"><circle r=\"8\"/><path d=\"M0 -8L0 -18\"/></g></svg>";
    }

    /// Where the ears are over time, for the page to move them.
    std::string script() const
    {
        std::string out = "[";
        for (std::size_t i = 0; i < way_.size(); ++i) {
            const auto [x, y] = at(way_[i].at);
            out += (i > 0 ? ",[" : "[") + plain(times_[i] * 10.0) + ',' + plain(x) + ',' + plain(y) + ',' +
                   plain(way_[i].heading_deg) + ']';
        }
        return out + ']';
    }

private:
    /// Of a hull there are no outlines without the level's file.
    void addOutlines(const Shape& shape, const Solid::Frame& frame, const std::string& name)
    {
        if (!std::holds_alternative<Hull>(shape)) {
            for (const std::vector<Vec2>& outline : Solid(shape, frame).footprint()) {
                rooms_.emplace_back(name, outline);
            }
        }
    }
    void fit()
    {
        Vec3 low{1e9};
        Vec3 high{-1e9};
        for (const Pose& pose : way_) {
            low = glm::min(low, pose.at);
            high = glm::max(high, pose.at);
        }
        if (way_.empty()) {
            low = high = Vec3{0.0};
        }
        low -= Vec3{about_m};
        high += Vec3{about_m};
        scale_ = std::min(width / (high.x - low.x), planHeight / (high.y - low.y));
        middle_ = (low + high) / 2.0;
    }
    std::pair<double, double> at(const Vec3& place) const
    {
        return {width / 2.0 + (place.x - middle_.x) * scale_, planHeight / 2.0 - (place.y - middle_.y) * scale_};
    }
    std::string point(const Vec3& place) const
    {
        const auto [x, y] = at(place);
        return plain(x) + ',' + plain(y);
    }

    List<Emitter> emitters_;
    std::vector<std::pair<std::string, std::vector<Vec2>>> rooms_;
    std::vector<std::pair<Vec2, Vec2>> openings_;
    std::vector<double> times_;
    std::vector<Pose> way_;
    double scale_ = 1.0;
    Vec3 middle_{0.0};
};

/// Each layer's name where it is thickest, if it is thick enough there and nothing is written yet.
std::string layerNames(const TakeLayers& layers, const std::vector<std::size_t>& which,
                       const std::vector<std::vector<float>>& edges, double most)
{
    constexpr double textHeight = 13.0;
    constexpr double letter = 6.6;
    struct Written {
        double x, y, width;
    };
    std::vector<Written> written;
    std::string out;
    for (std::size_t i = 0; i < which.size(); ++i) {
        const auto [best, thick] = TakeLayers::thickestOf(edges, i);
        const double scale = (strataHeight - 8.0) / most;
        if (static_cast<double>(thick) * scale < textHeight) {
            continue;
        }
        const std::string& name = layers.layers()[which[i]].name;
        const double wide = letter * static_cast<double>(name.size());
        const double middle = (static_cast<double>(best) + 0.5) * width / static_cast<double>(edges[i].size());
        const Written box{std::clamp(middle - wide / 2.0, 2.0, std::max(width - wide - 2.0, 2.0)),
                          strataHeight - static_cast<double>(edges[i][best] - thick / 2.0F) * scale + textHeight / 3.0, wide};
        const bool taken = std::any_of(written.begin(), written.end(), [&](const Written& other) {
            return std::abs(other.y - box.y) < textHeight && box.x < other.x + other.width && other.x < box.x + box.width;
        });
        if (!taken) {
            written.push_back(box);
            out += "<text x=\"" + plain(box.x) + "\" y=\"" + plain(box.y) + "\">" + escapedMarkup(name) + "</text>";
        }
    }
    return out;
}

/// Who is heard over time, as layers as thick as they are loud.
std::string strata(const Take& take)
{
    const TakeLayers layers(take, TakeLayers::By::emitters);
    std::vector<std::size_t> which;
    for (std::size_t i = 0; i < std::min(layers.layers().size(), mostLayers); ++i) {
        which.push_back(i);
    }
    // A column for each stretch, or for each of the page's units where there are more.
    const double seconds = std::max(take.seconds(), 1e-3);
    const std::size_t columns = std::clamp<std::size_t>(layers.stretches(), 2, static_cast<std::size_t>(width));
    std::vector<double> times_s(columns + 1);
    for (std::size_t i = 0; i <= columns; ++i) {
        times_s[i] = seconds * static_cast<double>(i) / static_cast<double>(columns);
    }
    const auto edges = layers.stacked(which, times_s);
    const double most = layers.thickest(which);
    std::string out = "<svg id=\"strata\" viewBox=\"0 0 " + plain(width) + ' ' + plain(strataHeight) + "\">";
    for (std::size_t i = 0; i < which.size(); ++i) {
        std::string upper;
        std::string lower;
        for (std::size_t x = 0; x < columns; ++x) {
            const std::string at = plain((static_cast<double>(x) + 0.5) * width / static_cast<double>(columns));
            const auto y = [&](float value) { return strataHeight - static_cast<double>(value) / most * (strataHeight - 8.0); };
            upper += at + ',' + plain(y(edges[i][x])) + ' ';
            lower = at + ',' + plain(y(i > 0 ? edges[i - 1][x] : 0.0F)) + ' ' + lower;
        }
        const TakeLayers::Layer& layer = layers.layers()[i];
        out += "<polygon fill=\"" + std::string(colourOf(layer.kind)) + "\" points=\"" + upper + lower + "\"><title>" +
               escapedMarkup(layer.name) + "</title></polygon>";
    }
    out += layerNames(layers, which, edges, most);
    for (const TakeEvent& event : take.events()) {
        const std::string x = plain(event.t_s / seconds * width);
        out += "<line class=\"mark\" x1=\"" + x + "\" x2=\"" + x + "\" y1=\"0\" y2=\"" + plain(strataHeight) + "\"><title>" +
               escapedMarkup(event.name) + "</title></line>";
    }
    return out + "<line id=\"now\" x1=\"0\" x2=\"0\" y1=\"0\" y2=\"" + plain(strataHeight) + "\"/></svg>";
}

std::string row(const std::string& what, const std::string& value, const std::optional<std::string>& other)
{
    return "<tr><td>" + what + "</td><td>" + value + "</td>" + (other ? "<td>" + *other + "</td>" : "") + "</tr>";
}

std::string totals(const Take& take, const Take* other)
{
    const TakeTotals is = totalsOf(take);
    const std::optional<TakeTotals> was = other != nullptr ? std::optional(totalsOf(*other)) : std::nullopt;
    std::string out = "<table><tr><th>The whole</th><th>" + escapedMarkup(take.path().stem().string()) + "</th>" +
                      (other != nullptr ? "<th>" + escapedMarkup(other->path().stem().string()) + "</th>" : "") + "</tr>";
    const auto line = [&](const char* what, double TakeTotals::*value, int decimals, const char* unit) {
        out += row(what, number(is.*value, decimals) + unit,
                   was ? std::optional(number((*was).*value, decimals) + unit) : std::nullopt);
    };
    line("Loudness", &TakeTotals::integrated_lufs, 1, " LUFS");
    line("True peak", &TakeTotals::truePeak_db, 1, " dB");
    line("Voices at most", &TakeTotals::voicesMost, 0, "");
    line("Voices in the mean", &TakeTotals::voicesMean, 1, "");
    line("Processor in the mean", &TakeTotals::cpu_pct, 1, " %");
    line("Way", &TakeTotals::way_m, 1, " m");
    const auto counted = [&](const char* what, int TakeTotals::*value) {
        out += row(what, std::to_string(is.*value), was ? std::optional(std::to_string((*was).*value)) : std::nullopt);
    };
    counted("Gave way, times", &TakeTotals::gaveWay);
    counted("Jumps over 6 dB in 0.1 s", &TakeTotals::jumps);
    counted("Bumps", &TakeTotals::bumps);
    counted("Falls", &TakeTotals::falls);
    return out + "</table>";
}

std::string differencesOf(const Take& take, const Take& other, const std::function<bool(double)>& progress)
{
    const TakeComparison comparison = compareTakes(other, take, progress);
    std::string out = "<h2>What was changed in between</h2><ul>";
    for (const Difference& difference : comparison.changed) {
        out += "<li>" + escapedMarkup(inWords(difference)) + "</li>";
    }
    out += comparison.changed.empty() ? "<li>nothing</li></ul>" : "</ul>";
    if (!comparison.stretches.empty()) {
        out += "<h2>Part by part</h2><table><tr><th>Part of the way</th><th>" + escapedMarkup(take.path().stem().string()) +
               "</th><th>" + escapedMarkup(other.path().stem().string()) + "</th></tr>";
        const auto said = [](const TakeStretch::Of& part) {
            return clock(part.to_s - part.from_s) + ", " + number(part.way_m, 1) + " m, bumps " + std::to_string(part.bumps) +
                   ", falls " + std::to_string(part.falls);
        };
        for (std::size_t i = 0; i < comparison.stretches.size(); ++i) {
            const TakeStretch& stretch = comparison.stretches[i];
            out += "<tr class=\"go\" data-t=\"" + plain(stretch.second.from_s) + "\"><td>" + std::to_string(i + 1) +
                   "</td><td>" + said(stretch.second) + "</td><td>" + said(stretch.first) + "</td></tr>";
        }
        out += "</table>";
    }
    out += "<h2>What that did at the ears</h2><table><tr><th>Emitter</th><th>mean</th><th>most</th><th>at</th></tr>";
    for (const TakeDifference& one : comparison.emitters) {
        if (std::abs(one.mean_db) >= 0.05 || std::abs(one.largest_db) >= 0.05) {
            out += "<tr class=\"go\" data-t=\"" + plain(one.inSecond_s) + "\"><td>" + escapedMarkup(one.name) +
                   (one.cameNew    ? ", new"
                    : one.wentAway ? ", not heard any more"
                                   : "") +
                   "</td><td>" + number(one.mean_db, 1) + " dB</td><td>" + number(one.largest_db, 1) + " dB</td><td>" +
                   clock(one.inSecond_s) + "</td></tr>";
        }
    }
    return out + "</table>";
}

std::string findings(const Take& take)
{
    std::string out = "<h2>What to listen to</h2><table>";
    bool any = false;
    for (const TakeFinding& finding : findInTake(take)) {
        any = true;
        out += "<tr class=\"go\" data-t=\"" + plain(finding.t_s) + "\"><td>" + clock(finding.t_s) + "</td><td>" +
               escapedMarkup(finding.what) + "</td></tr>";
    }
    return out + (any ? "</table>" : "<tr><td>Nothing.</td></tr></table>");
}

constexpr const char* style = R"(
body{background:#FBF8EF;color:#262420;font:15px/1.5 Lato,"DejaVu Sans",sans-serif;margin:0 auto;max-width:1040px;padding:20px}
h1{font-size:22px;margin:0}h2{font-size:16px;margin:24px 0 6px}p{color:#6B665C;margin:2px 0 10px}
svg{background:#fff;border:1px solid #DDD6C6;display:block;width:100%;margin:8px 0}
#strata polygon{fill-opacity:.6;stroke:#FBF8EF;stroke-width:.6}#strata polygon:hover{fill-opacity:1}
#strata text{font:600 12px Lato,"DejaVu Sans",sans-serif;paint-order:stroke;stroke:#FBF8EF;stroke-width:3;pointer-events:none}
.mark{stroke:#A39C8D;stroke-dasharray:2 3}#now{stroke:#262420;stroke-width:1.5}
.room{fill:#F1E9D9;fill-opacity:.5;stroke:#262420;stroke-width:1.5}.opening{stroke:#FBF8EF;stroke-width:4}
.way{fill:none;stroke:#6B665C;stroke-dasharray:4 4;stroke-width:1.5}#ears{fill:#FBF8EF;stroke:#262420;stroke-width:2.5}
table{border-collapse:collapse;width:100%}td,th{border-bottom:1px solid #DDD6C6;padding:3px 8px;text-align:left}
td+td,th+th{font-variant-numeric:tabular-nums}.go{cursor:pointer}.go:hover{background:#F1E9D9}
audio,input{width:100%}ul{margin:4px 0}
)";

/// Moves the line and the ears with the sound, or by hand where there is none.
constexpr const char* script = R"(
const line=document.getElementById('now'),ears=document.getElementById('ears'),ruler=document.getElementById('ruler'),
      said=document.getElementById('said'),sound=document.querySelector('audio');
function show(t){
  line.setAttribute('x1',t/seconds*1000);line.setAttribute('x2',t/seconds*1000);ruler.value=t;
  let low=0,high=way.length-1;
  while(low<high){const middle=(low+high+1)>>1;if(way[middle][0]<=t*10)low=middle;else high=middle-1;}
  if(way.length){const w=way[low];ears.setAttribute('transform','translate('+w[1]+' '+w[2]+') rotate('+w[3]+')');}
  said.textContent=Math.floor(t/60)+':'+(t%60).toFixed(1).padStart(4,'0');
}
function go(t){if(sound)sound.currentTime=t;show(t);}
ruler.oninput=()=>go(+ruler.value);
document.getElementById('strata').onclick=e=>{
  const box=e.currentTarget.getBoundingClientRect();go((e.clientX-box.left)/box.width*seconds);};
document.querySelectorAll('.go').forEach(r=>r.onclick=()=>go(+r.dataset.t));
if(sound){const follow=()=>{if(!sound.paused)show(sound.currentTime);requestAnimationFrame(follow)};follow();}
show(0);
)";

} // namespace

std::string takePage(const Take& take, const Take* other, const std::function<bool(double)>& progress)
{
    bool stopped = false;
    const auto within = [&](double from, double share) {
        return [&, from, share](double part) {
            stopped = stopped || (progress && !progress(from + share * part));
            return !stopped;
        };
    };
    const TakeInfo& info = take.info();
    const std::string title = escapedMarkup(info.project.empty() ? std::string("A take") : info.project);
    std::string out = "<!DOCTYPE html>\n<html lang=\"en\"><head><meta charset=\"utf-8\"><title>" + title + "</title><style>" +
                      style + "</style></head><body><h1>" + title + "</h1><p>" + escapedMarkup(take.path().stem().string()) +
                      (info.walk.empty() ? std::string(" · walked freely") : " · " + escapedMarkup(info.walk)) + " · " +
                      clock(take.seconds()) + " · " + escapedMarkup(info.layout) +
                      (info.note.empty() ? "" : " · " + escapedMarkup(info.note)) + "</p>";
    // The sound in one file, of the stretches in which it was kept; beyond two channels few browsers play it.
    constexpr int playable = 2;
    if (take.hasSound() && info.channels <= playable) {
        std::vector<float> frames;
        const std::uint64_t all = take.soundFrames();
        const auto some = static_cast<std::uint64_t>(info.rate) * 5U;
        for (std::uint64_t frame = 0; frame < all && !stopped; frame += some) {
            const std::vector<float> part = take.sound(frame, some);
            frames.insert(frames.end(), part.begin(), part.end());
            within(0.0, 0.6)(static_cast<double>(frame) / static_cast<double>(all));
        }
        if (!stopped) {
            out += "<audio controls src=\"data:audio/flac;base64," + base64(encodeSoundFile(frames, info.channels, info.rate)) +
                   "\"></audio>";
        }
    }
    const PlanDrawing plan(take);
    out += strata(take) + "<input id=\"ruler\" type=\"range\" min=\"0\" step=\"0.05\" max=\"" + plain(take.seconds()) +
           "\" aria-label=\"Time\"><p id=\"said\"></p>" + plan.svg() + totals(take, other);
    if (other != nullptr) {
        out += differencesOf(take, *other, within(0.6, 0.4));
    }
    out += findings(take);
    out += "<script>const seconds=" + plain(std::max(take.seconds(), 0.1)) + ",way=" + plan.script() + ";" + script +
           "</script></body></html>\n";
    return stopped ? std::string() : out;
}

} // namespace stone
