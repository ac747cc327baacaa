// SPDX-License-Identifier: MPL-2.0
#include "project/sound_target_json.h"

#include "project/fields.h"

namespace stone
{

namespace
{

constexpr const char* formats[] = {"wav16", "wav24", "flac", "vorbis", "opus"};
constexpr const char* loudnesses[] = {"kept", "matched"};
constexpr const char* namings[] = {"files", "sounds", "plain"};

} // namespace

template <class Io> void describe(Io io, const SoundTarget&)
{
    io.word("format", &SoundTarget::format, formats);
    io.whole("rate", &SoundTarget::rate, 0, 192'000);
    io.number("quality", &SoundTarget::quality, {0.0, 1.0});
    io.flag("fold", &SoundTarget::fold);
    io.flag("trim", &SoundTarget::trim);
    io.word("loudness", &SoundTarget::loudness, loudnesses);
    io.number("loudness_lufs", &SoundTarget::loudness_lufs, {-60.0, 0.0});
    io.word("naming", &SoundTarget::naming, namings);
}

template <> Range rangeOf(double SoundTarget::*member)
{
    return describedRange(member);
}

void readSoundTarget(ObjectReader& reader, SoundTarget& target)
{
    describe(FieldReader(reader, target), target);
    target.extras = reader.rest();
}

Json toJson(const SoundTarget& target)
{
    Json json{{"id", target.id.text}, {"name", target.name}};
    describe(FieldWriter(json, target), target);
    addExtras(json, target.extras);
    return json;
}

const char* wordOf(SoundTarget::Format format)
{
    return formats[static_cast<std::size_t>(format)];
}

const char* wordOf(SoundTarget::Naming naming)
{
    return namings[static_cast<std::size_t>(naming)];
}

} // namespace stone
