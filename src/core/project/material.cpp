// SPDX-License-Identifier: MPL-2.0
#include "project/material.h"

#include "project/material_json.h"
#include "project/material_library.h"

#include <algorithm>
#include <cctype>

namespace stone
{

namespace
{

std::string lowerCase(std::string text)
{
    std::transform(text.begin(), text.end(), text.begin(), [](unsigned char c) { return static_cast<char>(std::tolower(c)); });
    return text;
}

/// The first of those with the longest word that the name has in it.
const Material* byWord(const std::vector<Material>& materials, const std::string& name)
{
    const Material* best = nullptr;
    std::size_t longest = 0;
    for (const Material& material : materials) {
        for (const std::string& word : material.words) {
            if (word.size() > longest && name.find(lowerCase(word)) != std::string::npos) {
                best = &material;
                longest = word.size();
            }
        }
    }
    return best;
}

const Material* withId(const std::vector<Material>& materials, const MaterialId& id)
{
    const auto found =
        std::find_if(materials.begin(), materials.end(), [&](const Material& material) { return material.id == id; });
    return found != materials.end() ? &*found : nullptr;
}

std::vector<Material> readLibrary()
{
    const Json json = Json::parse(materialLibraryText);
    std::vector<Notice> notices;
    ObjectReader reader(json, "", notices);
    std::vector<Material> library;
    reader.each("materials", [&](ObjectReader& item) {
        Material material;
        material.id.text = item.text("id");
        material.name = item.text("name");
        readMaterial(item, material);
        library.push_back(std::move(material));
    });
    return library;
}

} // namespace

const std::vector<Material>& materialLibrary()
{
    static const std::vector<Material> library = readLibrary();
    return library;
}

const Material* findMaterial(const std::vector<Material>& own, const MaterialId& id)
{
    const Material* found = withId(own, id);
    return found != nullptr ? found : withId(materialLibrary(), id);
}

const Material& unknownMaterial()
{
    static const Material unknown = [] {
        Material material;
        material.name = "Unknown surface";
        material.absorption.fill(0.125);
        material.density_kg_m2 = 25.0;
        material.source = "nothing is known: the mass law for 25 kg/m2";
        return material;
    }();
    return unknown;
}

Surface materialOf(const std::vector<Material>& own, const std::vector<SurfaceUse>& uses, const std::string& surface)
{
    for (const SurfaceUse& use : uses) {
        if (use.surface == surface) {
            if (const Material* chosen = findMaterial(own, use.material)) {
                return {chosen, SurfaceBy::hand};
            }
        }
    }
    const std::string name = lowerCase(surface);
    const Material* ruled = byWord(own, name);
    if (ruled == nullptr) {
        ruled = byWord(materialLibrary(), name);
    }
    return ruled != nullptr ? Surface{ruled, SurfaceBy::rule} : Surface{&unknownMaterial(), SurfaceBy::nothing};
}

} // namespace stone
