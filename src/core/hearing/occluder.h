// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "acoustics/air.h"
#include "level/ground.h"
#include "level/hurdle.h"
#include "project/document.h"
#include "world/room_map.h"

#include <memory>
#include <optional>
#include <span>
#include <vector>

namespace stone
{

/// What walls leave of a sound on its way to the ears.
struct Screened {
    Bands loss_db{}; ///< by octave band, positive
    int rays = 0;    ///< that were asked; 0: nothing was reckoned
    int free = 0;    ///< of these, those that nothing stops
    /// How much of what arrives comes through openings, 0 to 1, and from where that is heard: a mean of unit vectors.
    double turned = 0.0;
    Vec3 towards{0.0};
    double detour_m = 0.0; ///< by which what arrives came a longer way than the straight one, in the mean

    /// The level over all bands, dB, 0 or less: the mean of their energies.
    double level_db() const;
};

/// One ray from the ears, told in full.
struct RaySeen {
    struct Wall {
        Vec3 at; ///< where it is entered, coming from the ears
        double thickness_m;
        std::uint32_t surface; ///< into the mesh's materials
        Bands loss_db;
    };
    Vec3 to;
    double weight; ///< its share in the mean
    std::vector<Wall> walls;
    bool leaf = false; ///< what stands half open or closed in an opening takes its part
};

/// One way round or over what stands between.
struct WaySeen {
    std::vector<Vec3> points; ///< from the ears to the source
    double detour_m;
    std::array<double, 8> left; ///< of the power, by band
    bool openings = false;      ///< it leads through openings

    Bands loss_db() const;
};

/// Where a loss comes from.
struct Explained {
    Screened screened;
    std::vector<RaySeen> rays;
    std::vector<WaySeen> ways;
};

/// Reckons what stands between the ears and a source: rays from the ears to points over the source's size, each with the
/// losses of the walls that it goes through, every wall once; for those that are stopped, what bends round corners (by the
/// storey's corner graph), over the top and underneath. The energies of the rays are averaged in each band.
///
/// Immutable; any number of threads may ask, each with a Scratch of its own. Costs a few rays for each wall that is met.
class Occluder
{
public:
    /// `ground`: null when there is no geometry; then nothing is reckoned. `search`: whether obstacles and corner
    /// graphs that are not there yet are made, or done without.
    Occluder(std::shared_ptr<const Project> project, const Level& level, const std::shared_ptr<const Ground>& ground,
             bool search);

    bool active() const { return obstacles_ != nullptr; }

    /// Something that sounds.
    struct Source {
        Vec3 centre{0.0}; ///< for an area the place nearest to the ears
        struct Point {
            Vec3 at;
            double weight;
        };
        std::span<const Point> points; ///< over its size
        double clear_m = 0.0;
        std::optional<std::uint32_t> housing{}; ///< node of the mesh that does not stop it
        /// Of something in another room: the ways through openings, instead of those round corners.
        bool elsewhere = false;
        std::span<const WaySeen> ways{};
        /// The openings where rays may pass, whatever stands in them.
        struct Leaf {
            const RoomMap::Hole* hole;
            std::array<double, 8> passes; ///< by band, of the energy
        };
        std::span<const Leaf> leaves{};
        /// Of something that stands still: its number, under which Scratch keeps what it sees, if that is wanted.
        std::optional<std::uint32_t> still{};
    };

    /// Kept by the caller from one question to the next, so that what holds for all sources of a moment is found once.
    struct Scratch {
        std::vector<Obstacles::Crossing> crossings;
        std::vector<Obstacles::Crossing> middle; ///< of the ray to the centre
        CornerGraph::Spread spread;
        std::vector<std::pair<double, std::array<double, 8>>> stopped; ///< weight and energies of rays
        std::vector<const RoomMap::Hole*> passed;                      ///< by the last ray
        std::shared_ptr<const CornerGraph> spreadOf; ///< held, so that no other graph can take its place in memory
        /// Ways round corners that were spread from a place no further away than this still hold; their first stretch is
        /// measured anew.
        double staleBy_m = 0.0;
        /// Of whoever asks from very many places: what is found of sources that stand still is kept, each with its graph.
        bool keepsSources = false;
        struct Known {
            std::shared_ptr<const CornerGraph> graph;
            CornerGraph::Seen seen;
        };
        std::vector<Known> known; ///< by number
    };

    /// `told`: filled in when it is not null.
    Screened screen(const Vec3& ears, const Source& source, Scratch& scratch, Explained* told = nullptr) const;

    /// A part of the level by its name.
    std::optional<std::uint32_t> nodeOf(const std::string& name) const;
    const std::vector<std::string>& surfaces() const { return obstacles_->mesh().materials; }
    Surface materialOfSurface(std::uint32_t surface) const { return materials_[surface]; }

private:
    struct StoreyCorners {
        double from_m;
        double to_m;
        std::shared_ptr<const CornerGraph> graph;
    };
    using Energies = std::array<double, 8>;

    void gatherStoreys(const Level& level, bool search);
    std::shared_ptr<const CornerGraph> cornersFor(double a_m, double b_m) const;
    Obstacles::Ray rayTo(const Vec3& ears, const Vec3& to, const Source& source) const;
    Energies throughWalls(const std::vector<Obstacles::Crossing>& crossings) const;
    Energies bent(const Vec3& ears, const Source& source, Scratch& scratch, Explained* told) const;
    static void takeStraightWays(const Source& source, const std::vector<const RoomMap::Hole*>& passed, Energies& left);
    static Energies throughOpenings(const Source& source, Explained* told);
    static void turn(const Vec3& ears, const Source& source, double weightHidden, const Energies& sum, Screened& screened);
    void bendRoundCorners(const std::shared_ptr<const CornerGraph>& graph, const Vec3& ears, const Source& source,
                          Scratch& scratch, std::vector<WaySeen>& ways, bool tell) const;

    std::shared_ptr<const Project> project_;
    Occlusion settings_;
    std::shared_ptr<const Obstacles> obstacles_;
    std::vector<Surface> materials_; ///< by surface
    std::vector<Energies> tables_;   ///< by surface: what passes a wall whose thickness does not count
    std::vector<StoreyCorners> storeys_;
};

/// Points spread evenly within a unit ball, always the same for an id: a Kronecker sequence by the generalised golden ratio
/// (M. Roberts, "The Unreasonable Effectiveness of Quasirandom Sequences", 2018). The first lies at the centre.
std::vector<Vec3> pointsInBall(int count, const std::string& id);
/// The same in the unit cube, 0 to 1; none at the centre.
std::vector<Vec3> pointsInCube(int count, const std::string& id);

} // namespace stone
