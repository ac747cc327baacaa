// SPDX-License-Identifier: MPL-2.0
#include "project/material_json.h"

#include "project/band_json.h"
#include "project/fields.h"

namespace stone
{

namespace
{

constexpr Range mass{0.001, 100'000.0};

} // namespace

template <class Io> void describe(Io io, const Material&)
{
    io.number("density_kg_m2", &Material::density_kg_m2, mass);
    io.number("density_kg_m3", &Material::density_kg_m3, {0.0, mass.most});
    io.text("source", &Material::source);
}

template <class Io> void describe(Io io, const Occlusion&)
{
    io.flag("on", &Occlusion::on);
    io.whole("rays", &Occlusion::rays, 1, 64);
    io.number("reach_m", &Occlusion::reach_m, {0.1, ranges::length.most});
    io.number("change_db_s", &Occlusion::change_db_s, {0.1, 100'000.0});
    io.number("body_m", &Occlusion::body_m, {0.0, 100.0});
    io.number("slender_m", &Occlusion::slender_m, {0.0, 100.0});
    io.flag("bends", &Occlusion::bends);
}

template <class Io> void describe(Io io, const Screening&)
{
    io.flag("on", &Screening::on);
    io.number("size_m", &Screening::size_m, {0.0, 1000.0});
    io.number("clear_m", &Screening::clear_m, {0.0, 1000.0});
    io.text("housing", &Screening::housing);
}

template <> Range rangeOf(double Material::*member)
{
    return describedRange(member);
}

template <> Range rangeOf(double Occlusion::*member)
{
    return describedRange(member);
}

template <> Range rangeOf(int Occlusion::*member)
{
    return describedRange(member);
}

template <> Range rangeOf(double Screening::*member)
{
    return describedRange(member);
}

void readMaterial(ObjectReader& reader, Material& material)
{
    material.words = reader.texts("words");
    if (reader.has("absorption")) {
        material.absorption = readBands(reader, "absorption", ranges::share);
    }
    if (reader.has("loss_db")) {
        material.loss_db = readBands(reader, "loss_db", ranges::wallLoss_db);
    }
    describe(FieldReader(reader, material), material);
    material.extras = reader.rest();
}

Json toJson(const Material& material)
{
    Json json{{"id", material.id.text}, {"name", material.name}};
    if (!material.words.empty()) {
        json["words"] = material.words;
    }
    json["absorption"] = material.absorption;
    if (material.loss_db) {
        json["loss_db"] = *material.loss_db;
    }
    describe(FieldWriter(json, material), material);
    addExtras(json, material.extras);
    return json;
}

SurfaceUse readSurfaceUse(ObjectReader& reader)
{
    SurfaceUse use;
    use.surface = reader.text("surface");
    use.material.text = reader.text("material");
    use.extras = reader.rest();
    return use;
}

Json toJson(const SurfaceUse& use)
{
    Json json{{"surface", use.surface}, {"material", use.material.text}};
    addExtras(json, use.extras);
    return json;
}

Occlusion readOcclusion(ObjectReader reader)
{
    return readThing<Occlusion>(reader);
}

Json toJson(const Occlusion& occlusion)
{
    return jsonOf(occlusion);
}

Screening readScreening(ObjectReader reader)
{
    return readThing<Screening>(reader);
}

Json toJson(const Screening& screening)
{
    return jsonOf(screening);
}

} // namespace stone
