#pragma once
#include "core/cost/device_profile.h"
#include "core/image/image_io.h"
#include "core/io/file.h"
#include "core/io/wire.h"
#include "core/scene/gltf_import.h"
#include "core/scene/project.h"
#include <cstdint>
#include <filesystem>
#include <string>
#include <vector>

// One input in, a value or one Error out: whatever the bytes, nothing throws past these and nothing reads beyond them.
namespace mirolux::fuzz {

using Bytes = std::vector<std::uint8_t>;

inline void scene(const Bytes& bytes, const std::filesystem::path& folder) {
    const auto path = folder / (bytes.size() > 4 && bytes[0] == 'g' ? "x.glb" : "x.gltf");
    if (!write_file_atomically(path, bytes.data(), bytes.size())) return;
    (void)import_gltf(path, {.memoryLimit = 64 << 20});
}

inline void project(const Bytes& bytes, const std::filesystem::path& folder) {
    const auto path = folder / "x.mirolux";
    if (!write_file_atomically(path, bytes.data(), bytes.size())) return;
    (void)open_project(path, {.decodeImages = false});
}

inline void image(const Bytes& bytes, const std::filesystem::path&) {
    const auto size = encoded_image_size(bytes);
    if (size && std::size_t(size->first) * static_cast<std::size_t>(size->second) < (1u << 22))
        (void)decode_image(bytes);
}

inline void profile(const Bytes& bytes, const std::filesystem::path& folder) {
    const auto path = folder / "x.json";
    if (!write_file_atomically(path, bytes.data(), bytes.size())) return;
    (void)find_profile(path.string());
}

/// A message between program and worker, of any kind.
inline void wire(const Bytes& bytes, const std::filesystem::path&) {
    const Json j = Json::from_cbor(bytes, true, false);
    if (j.is_discarded() || !j.is_object()) return;
    const JsonCursor root(j);
    const auto read = [&](auto&& reader) {
        try {
            reader();
        } catch (const ReadFailure&) {
        }
    };
    read([&] { (void)record_from_json(root["record"]); });
    read([&] { (void)options_from_json(root["options"]); });
    read([&] { (void)view_from_json(root["view"]); });
    read([&] { (void)setup_from_json(root["setup"]); });
    read([&] {
        std::vector<Light> lights;
        apply_light_patch(lights, root["lights"]);
    });
}

} // namespace mirolux::fuzz
