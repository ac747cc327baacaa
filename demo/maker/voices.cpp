// SPDX-License-Identifier: GPL-3.0-or-later
#include "sounds.h"

#include <sndfile.h>

#include <algorithm>
#include <cstdlib>
#include <stdexcept>

namespace vellmoor
{

namespace
{

/// A line spoken by espeak-ng, at our rate.
Track spoken(const std::string& words, const std::string& voice, int speed, int pitch)
{
    const std::filesystem::path file = std::filesystem::temp_directory_path() / "vellmoor-voice.wav";
    const std::string command = "espeak-ng -v " + voice + " -s " + std::to_string(speed) + " -p " + std::to_string(pitch) +
                                " -w '" + file.string() + "' '" + words + "'";
    if (std::system(command.c_str()) != 0) {
        throw std::runtime_error("espeak-ng could not speak; install it with tools/install-deps.sh");
    }
    SF_INFO info{};
    SNDFILE* in = sf_open(file.c_str(), SFM_READ, &info);
    if (in == nullptr) {
        throw std::runtime_error("what espeak-ng spoke cannot be read");
    }
    std::vector<double> raw(static_cast<std::size_t>(info.frames));
    sf_readf_double(in, raw.data(), info.frames);
    sf_close(in);
    std::filesystem::remove(file);
    // The horn passes nothing above 3 kHz, so straight lines between the samples are good enough.
    const double step = static_cast<double>(info.samplerate) / rate;
    Track track(static_cast<std::size_t>(static_cast<double>(raw.size() - 1) / step));
    for (std::size_t i = 0; i < track.size(); ++i) {
        const double at = static_cast<double>(i) * step;
        const auto whole = static_cast<std::size_t>(at);
        track[i] = raw[whole] + (raw[whole + 1] - raw[whole]) * (at - static_cast<double>(whole));
    }
    return track;
}

/// A voice through a speaking horn: two chimes, the words, driven hard through a narrow horn, the yard's answer.
std::vector<Track> announcement()
{
    Dice dice(401);
    const Track voice =
        spoken("The last train for Sallow Fen and Oldmere stands at platform two. Mind the step.", "en-gb", 135, 28);
    Track track = silence(2.2 + static_cast<double>(voice.size()) / rate + 1.2);
    strike(track, 0.02, 660, 0.5, {{1, 1, 1.4}, {2, 0.3, 0.8}, {3, 0.1, 0.5}}, dice);
    strike(track, 0.75, 528, 0.5, {{1, 1, 1.6}, {2, 0.3, 0.9}, {3, 0.1, 0.5}}, dice);
    double peak = 1e-9;
    for (const double x : voice) {
        peak = std::max(peak, std::abs(x));
    }
    for (std::size_t i = 0; i < voice.size(); ++i) {
        track[i + static_cast<std::size_t>(2.0 * rate)] += voice[i] / peak;
    }
    track = lowPass(highPass(track, 480), 3000);
    for (double& x : track) {
        x = std::tanh(3.5 * x);
    }
    Track horn = track;
    mix(horn, bandPass(track, 1250, 4), 0.9);
    Track answer = horn;
    for (const double delay : {0.083, 0.149, 0.231}) {
        const auto frames = static_cast<std::size_t>(delay * rate);
        for (std::size_t i = frames; i < answer.size(); ++i) {
            answer[i] += 0.16 * horn[i - frames];
        }
    }
    return {answer};
}

struct Line {
    const char* words;
    int speed;
    int pitch;
};
constexpr Line lateLines[] = {{"Is that the one for Sallow Fen?", 190, 62},
                              {"Wait! Wait for us!", 205, 40},
                              {"Platform two, it said. Platform two.", 185, 20},
                              {"Come on, we shall miss it.", 200, 75}};

/// Somebody who is late, called across a platform: the words and nothing else.
template <std::size_t line> std::vector<Track> late()
{
    Track track =
        lowPass(highPass(spoken(lateLines[line].words, "en-gb", lateLines[line].speed, lateLines[line].pitch), 140), 6000);
    Track whole = silence(static_cast<double>(track.size()) / rate + 0.1);
    for (std::size_t i = 0; i < track.size(); ++i) {
        whole[i] += track[i];
    }
    return {whole};
}

} // namespace

std::vector<Recipe> voiceRecipes()
{
    return {{"announcement.ogg", -3, announcement},
            {"late-voice-1.flac", -6, late<0>},
            {"late-voice-2.flac", -6, late<1>},
            {"late-voice-3.flac", -6, late<2>},
            {"late-voice-4.flac", -6, late<3>}};
}

} // namespace vellmoor
