// SPDX-License-Identifier: GPL-3.0-or-later
#include "level.h"
#include "sounds.h"

#include <cstring>
#include <exception>
#include <iostream>

/// vellmoor-maker FOLDER [level|sounds|FILE]: makes the demo's level and sounds from numbers.
int main(int argc, char** argv)
{
    using namespace vellmoor;
    if (argc < 2) {
        std::cerr << "usage: vellmoor-maker FOLDER [level|sounds|FILE]\n";
        return 2;
    }
    try {
        const std::filesystem::path folder = argv[1];
        const std::string what = argc > 2 ? argv[2] : "";
        if (what == "" || what == "level") {
            std::filesystem::create_directories(folder / "level");
            const MeshBuilder level = buildLevel();
            level.writeGlb(folder / "level" / "vellmoor-halt.glb");
            std::cout << "level: " << level.triangles() << " triangles\n";
        }
        if (what != "level") {
            std::filesystem::create_directories(folder / "sounds");
            for (const auto& recipes : {placeRecipes(), machineRecipes(), nightRecipes(), voiceRecipes()}) {
                for (const Recipe& recipe : recipes) {
                    if (what != "" && what != "sounds" && what != recipe.file) {
                        continue;
                    }
                    std::vector<Track> channels = recipe.make();
                    normalise(channels, recipe.peak_db);
                    writeSound(folder / "sounds" / recipe.file, channels);
                    std::cout << recipe.file << ": " << static_cast<double>(channels.front().size()) / rate << " s, "
                              << channels.size() << (channels.size() == 1 ? " channel\n" : " channels\n");
                }
            }
        }
    } catch (const std::exception& error) {
        std::cerr << "vellmoor-maker: " << error.what() << '\n';
        return 1;
    }
    return 0;
}
