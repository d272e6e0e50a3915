#pragma once
#include <cstdint>
#include <filesystem>
#include <vector>

// One input in, a value or one Error out: whatever the bytes, nothing throws past a target, nothing reads beyond them
// and nothing takes more than its share of memory.
namespace mirolux::fuzz {

using Bytes = std::vector<std::uint8_t>;

struct Target {
    const char* name;
    void (*run)(const Bytes& bytes, const std::filesystem::path& folder); // the folder is the target's to write in
    std::vector<Bytes> (*seeds)();                                        // good inputs to begin from
    int inputs;                                                           // of the short run
    int longInputs = 0;                                                   // of a long one, where it asks for more
};

/// Scene, project, image, profile, logbook texts and messages.
const std::vector<Target>& targets();

} // namespace mirolux::fuzz
