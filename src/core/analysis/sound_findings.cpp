// SPDX-License-Identifier: MPL-2.0
#include "analysis/sound_findings.h"

#include "acoustics/lane.h"
#include "analysis/words.h"

#include <algorithm>
#include <cctype>
#include <cmath>
#include <optional>

namespace stone
{

namespace
{

using Severity = Finding::Severity;

constexpr double offset = 0.01;        ///< share of full scale
constexpr double loopSilence_s = 0.05; ///< at the ends of a loop
constexpr double loopPause_s = 1.0;
constexpr double gapStandsOut = 1.5;  ///< times the longest silence inside
constexpr double swells_db = 15.0;    ///< of a loop without pauses
constexpr double swellPause_s = 0.02; ///< a loop with longer ones is made of events, which swell by nature
constexpr double uneven_db = 6.0;     ///< between the loudest and the softest of the files

class SoundExamination
{
public:
    SoundExamination(const Sound& sound, std::vector<Finding>& found) : sound_(sound), found_(found) {}

    void file(std::size_t index, const SampleBuffer& buffer)
    {
        index_ = index;
        examine(sound_.files[index], buffer);
        index_.reset();
    }

    void uneven(const std::vector<SharedBuffer>& files)
    {
        double loudest = -1e9;
        double softest = 1e9;
        for (std::size_t i = 0; i < files.size(); ++i) {
            if (files[i] && std::isfinite(files[i]->facts.loudness_lufs())) {
                const double level = files[i]->facts.loudness_lufs() + sound_.files[i].level_db;
                loudest = std::max(loudest, level);
                softest = std::min(softest, level);
            }
        }
        if (loudest - softest < uneven_db) {
            return;
        }
        add("variations-uneven", "has files that differ by " + number("%.0f dB", loudest - softest) + " in loudness",
            "match their levels, unless that is what you want");
        found_.back().remedies = {
            {"Match their levels", [id = sound_.id, levels = matchedLevels_db(sound_, files)](Project changed) {
                 Sound matched = *changed.sounds.find(id);
                 for (std::size_t i = 0; i < std::min(levels.size(), matched.files.size()); ++i) {
                     matched.files[i].level_db = levels[i];
                 }
                 changed.sounds.put(std::move(matched));
                 return changed;
             }}};
    }

    /// Words in a sound's name, tags or files that say what nobody has told the program.
    void looksBinaural()
    {
        const auto says = [](std::string text) {
            std::transform(text.begin(), text.end(), text.begin(),
                           [](unsigned char c) { return static_cast<char>(std::tolower(c)); });
            return text.find("binaural") != std::string::npos;
        };
        const bool said =
            says(sound_.name) || std::any_of(sound_.tags.begin(), sound_.tags.end(), says) ||
            std::any_of(sound_.files.begin(), sound_.files.end(), [&](const SoundFile& f) { return says(f.file); });
        if (sound_.binaural || !said) {
            return;
        }
        add("binaural-twice", "seems to be made for two ears, but is placed like any other: it would go through a head twice",
            "say that it is made for two ears");
        found_.back().remedies = {{"It is made for two ears", [id = sound_.id](Project changed) {
                                       Sound binaural = *changed.sounds.find(id);
                                       binaural.binaural = true;
                                       changed.sounds.put(std::move(binaural));
                                       return changed;
                                   }}};
    }

private:
    void examine(const SoundFile& file, const SampleBuffer& buffer)
    {
        const SoundFacts& facts = buffer.facts;
        if (facts.peak == 0.0F) {
            add("sound-silent", "holds nothing but silence", "record or export it again");
            return;
        }
        if (facts.peak >= 1.0F) {
            add("sound-clips", "reaches full scale and may be clipped", "export it with some room at the top");
        }
        if (facts.dc > offset) {
            add("sound-offset",
                "is off centre by " + number("%.1f %%", 100.0 * facts.dc) + " of full scale: it thumps when it starts",
                "take the offset out with a high-pass");
        }
        if (facts.alike) {
            add("sound-alike", "has " + std::to_string(buffer.channelCount()) + " channels that are all the same",
                "export it with one channel: it takes less memory and can be placed like any other", Severity::note);
        }
        const bool looped = isLooped(sound_, file);
        fades(looped, buffer);
        if (looped) {
            loop(file, buffer);
        } else {
            overTime(buffer);
        }
    }

    void add(const char* code, const std::string& what, const char* fix, Severity severity = Severity::warning)
    {
        const std::string file = index_ && sound_.files.size() > 1 ? " (" + sound_.files[*index_].file + ")" : "";
        found_.push_back({.code = code,
                          .severity = severity,
                          .what = quoted(sound_.name) + file + ' ' + what,
                          .where = "sound " + quoted(sound_.name),
                          .fix = fix,
                          .sound = sound_.id,
                          .file = index_.value_or(0)});
    }

    void fades(bool looped, const SampleBuffer& buffer)
    {
        const double fades_s = sound_.fadeIn_s + (looped ? 0.0 : sound_.fadeOut_s);
        if (fades_s > buffer.seconds()) {
            add("fade-too-long",
                "fades for " + number("%.2f s", fades_s) + " and lasts " + number("%.2f s", buffer.seconds()) +
                    ": it never reaches its level",
                "make the fades shorter");
        }
    }

    /// A run of one file follows itself, and can be cross-faded: what a plain loop cannot.
    void offerCrossFade(bool whole, double seconds)
    {
        if (!whole || sound_.make != Make::one || sound_.files.size() != 1) {
            return;
        }
        constexpr double usual_s = 0.5;
        const double fade_s = std::round(std::min(usual_s, seconds / 4.0) * 100.0) / 100.0;
        found_.back().remedies = {{"Cross-fade its ends", [id = sound_.id, fade_s](Project changed) {
                                       Sound run = *changed.sounds.find(id);
                                       run.make = Make::run;
                                       run.sequence.crossFade_s = fade_s;
                                       run.sequence.gapMost_s = run.sequence.gapLeast_s = 0.0;
                                       changed.sounds.put(std::move(run));
                                       return changed;
                                   }}};
    }

    /// A level over time that ends in silence while the file still sounds.
    void overTime(const SampleBuffer& buffer)
    {
        const double sounds_s = buffer.seconds() - buffer.facts.tailSilence_s;
        for (const Lane& lane : sound_.lanes) {
            const bool fades = lane.on && lane.property == LaneProperty::level && lane.over == LaneInput::time &&
                               !lane.curve.empty() && lane.curve.back().y <= laneSilent_db;
            constexpr double matters_s = 0.05;
            if (fades && lane.curve.back().x < sounds_s - matters_s) {
                add("lane-cuts-tail",
                    "is silent by its lane over time from " + number("%.2f s", lane.curve.back().x) + " on, and sounds until " +
                        number("%.2f s", sounds_s),
                    "draw the lane as long as the sound, or cut the file there", Severity::note);
            }
        }
    }

    void loop(const SoundFile& file, const SampleBuffer& buffer)
    {
        const SoundFacts& facts = buffer.facts;
        const bool whole = file.loopFrom_s <= 0.0 && file.loopTo_s <= 0.0;
        if (file.loopFrom_s >= buffer.seconds()) {
            add("loop-beyond-end",
                "loops from " + number("%.2f s", file.loopFrom_s) + ", but lasts " + number("%.2f s", buffer.seconds()),
                "move the start of the loop into the file");
            return;
        }
        // A recording of single events is silent between them anyway, and a long pause is meant: what an export leaves at
        // the ends is short and stands out.
        const double gap_s = facts.headSilence_s + facts.tailSilence_s;
        if (whole && gap_s > loopSilence_s && gap_s < loopPause_s && gap_s > gapStandsOut * facts.innerSilence_s) {
            add("loop-silence", "is a loop with " + number("%.2f s", gap_s) + " of silence at its ends: it will pulse",
                "trim it, or set its loop inside");
        }
        if (facts.swell_db >= swells_db && facts.innerSilence_s < swellPause_s && gap_s < loopSilence_s) {
            add("loop-swells", "is a loop that swells by " + number("%.0f dB", facts.swell_db) + ": its coming round is heard",
                "level it out, or play it as a run", Severity::note);
        }
        const SeamFacts seam = seamOf(buffer, file.loopFrom_s, file.loopTo_s);
        if (seam.step_db >= seamClicks_db) {
            add("loop-clicks",
                "clicks where the loop comes round: a step " + number("%.0f dB", seam.step_db) + " above its usual ones",
                "cut it where the wave is going the same way, or cross-fade its ends");
            offerCrossFade(whole, buffer.seconds());
        }
    }

    const Sound& sound_;
    std::vector<Finding>& found_;
    std::optional<std::size_t> index_; ///< of the file that is looked at; nothing: the sound as a whole
};

} // namespace

void findInSound(const Sound& sound, const std::vector<SharedBuffer>& files, std::vector<Finding>& found)
{
    SoundExamination examination(sound, found);
    for (std::size_t i = 0; i < files.size(); ++i) {
        if (files[i]) {
            examination.file(i, *files[i]);
        }
    }
    // Layers are mixed by ear: only what comes in turn should be alike.
    if (sound.make == Make::one || sound.make == Make::run) {
        examination.uneven(files);
    }
    examination.looksBinaural();
}

std::vector<double> matchedLevels_db(const Sound& sound, const std::vector<SharedBuffer>& files)
{
    const auto audible = [&](std::size_t i) { return files[i] && std::isfinite(files[i]->facts.loudness_lufs()); };
    double sum = 0.0;
    int count = 0;
    for (std::size_t i = 0; i < files.size(); ++i) {
        if (audible(i)) {
            sum += files[i]->facts.loudness_lufs() + sound.files[i].level_db;
            ++count;
        }
    }
    std::vector<double> levels;
    for (std::size_t i = 0; i < files.size(); ++i) {
        const double matched = audible(i) ? sum / count - files[i]->facts.loudness_lufs() : sound.files[i].level_db;
        levels.push_back(std::round(matched * 10.0) / 10.0);
    }
    return levels;
}

} // namespace stone
