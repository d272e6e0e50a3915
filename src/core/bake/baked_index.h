#pragma once
#include "core/base/error.h"
#include <filesystem>
#include <memory>
#include <nlohmann/json.hpp>
#include <optional>

// The index files of what is baked by texel: which scene, how fine, how far.
namespace mirolux {

/// What every index says.
struct BakedIndex {
    std::string scene; // digest of what it depends on
    float density = 0; // texels a metre
    int samples = 0;
    int width = 0, height = 0;
    std::size_t all = 0, done = 0; // texels, or vertices
    nlohmann::json rest;           // of the file

    bool complete() const { return done == all; }
};
/// Nothing where a file does not say of itself that it is one of this schema and version.
std::optional<BakedIndex> read_baked_index(const std::filesystem::path& file, const std::string& schema, int version);
/// As it stands in files.
nlohmann::json to_json(const BakedIndex& index, const std::string& schema, int version);

/// What is looked for in a folder of bakes.
struct BakedQuestion {
    std::filesystem::path bakes;
    std::string prefix, schema; // of names of index files; of their contents
    int version = 1;
    std::string scene;           // digest
    std::filesystem::path exact; // the one that answers all settings; it is taken first
    float density = 0;           // 0: any will do
    bool operator==(const BakedQuestion&) const = default;
};
/// The exact one, or the newest complete one of the same scene; `state`: why there is none.
enum class BakedState { found, under, stale, none };
struct BakedAnswer {
    std::filesystem::path index; // empty: none
    BakedState state = BakedState::none;
    std::shared_ptr<const BakedIndex> held{}; // what it says
};
/// Asked again only when the folder has changed. From any thread.
BakedAnswer find_baked(const BakedQuestion& question);
/// All complete ones of the scene.
std::vector<std::pair<std::filesystem::path, BakedIndex>> all_baked(const BakedQuestion& question);

/// Sets files aside by a new name that ends with ".damaged"; those that are not there are passed over.
void set_aside(const std::vector<std::filesystem::path>& files);

} // namespace mirolux
