// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "project/id.h"
#include "project/lane.h"

#include <array>
#include <optional>
#include <string>
#include <vector>

namespace stone
{

/// A value for each octave band, 63 Hz to 8 kHz.
using BandValues = std::array<double, 8>;

/// What a kind of wall does to sound.
struct Material {
    MaterialId id;
    std::string name;
    /// Words that the names of such surfaces have in them, in lower case: a surface with one of them is of this material
    /// unless somebody said otherwise.
    std::vector<std::string> words;
    /// Share of the sound's energy that it does not give back, 0 to 1.
    BandValues absorption{};
    /// What it takes from sound that goes through, dB, positive; none: by its mass. 0 to 120.
    std::optional<BandValues> loss_db;
    double density_kg_m2 = 20.0; ///< of a wall of it, for the mass law; > 0
    /// Of the stuff itself: when above 0, the wall's mass is this times the thickness that a ray finds.
    double density_kg_m3 = 0.0;
    std::string source; ///< where the numbers come from
    Extras extras{};

    bool operator==(const Material&) const = default;
};

/// A surface name of the level files and the material that somebody chose for it.
struct SurfaceUse {
    std::string surface; ///< as in the file
    MaterialId material; ///< of the project or of the library
    Extras extras{};

    bool operator==(const SurfaceUse&) const = default;
};

/// How walls are reckoned with, in the whole project.
struct Occlusion {
    bool on = true;
    int rays = 9;            ///< to each source; 1 to 64
    double reach_m = 80.0;   ///< nothing is reckoned beyond; over the last fifth of it the walls' part fades out; > 0
    double change_db_s = 45; ///< by which the loss of a band changes at most; > 0
    double body_m = 0.3;     ///< what is nearer to the ears is the listener's own body; >= 0
    double slender_m = 0.25; ///< what is narrower than this in two directions, as bars and posts, stops nothing; >= 0
    bool bends = true;       ///< sound bends round corners and over edges
    Extras extras{};

    bool operator==(const Occlusion&) const = default;
};

/// How an emitter takes part in that.
struct Screening {
    bool on = true;
    double size_m = 0.4;      ///< radius within which it sounds; areas have their own extent; >= 0
    double clear_m = 0.2;     ///< what is nearer to it does not count; >= 0
    std::string housing = {}; ///< name of a part of the level that does not stop it; empty: none
    Extras extras{};

    bool operator==(const Screening&) const = default;
};

/// The materials that come with Stone Echo, each with its source.
const std::vector<Material>& materialLibrary();

/// A material by its id, of these or of the library; null when neither has it.
const Material* findMaterial(const std::vector<Material>& own, const MaterialId& id);

/// How a surface came to its material.
enum class SurfaceBy { hand, rule, nothing };

/// A surface and its material.
struct Surface {
    const Material* material; ///< `unknownMaterial()` where nothing fits
    SurfaceBy by;
};

/// What counts where nobody knows better: a wall of 25 kg/m2 by the mass law, an eighth of the energy absorbed.
const Material& unknownMaterial();

/// The material of a surface of this name: chosen by hand, else the first of `own`, else of the library, of whose words the
/// name has the longest. Case does not count.
Surface materialOf(const std::vector<Material>& own, const std::vector<SurfaceUse>& uses, const std::string& surface);

} // namespace stone
