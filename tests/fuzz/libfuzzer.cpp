// The same targets under libFuzzer, one executable each (TARGET_NAME): ./run-tests --fuzz MINUTES runs them all.
#include "fuzz/targets.h"
#include <cstdio>
#include <cstdlib>
#include <cstring>
#include <fstream>
#include <unistd.h>

using namespace mirolux;

static const fuzz::Target& target() {
    for (const fuzz::Target& t : fuzz::targets())
        if (std::strcmp(t.name, TARGET_NAME) == 0) return t;
    std::abort();
}

/// Writes the seeds into the first folder of the command line: libFuzzer's corpus.
extern "C" int LLVMFuzzerInitialize(int* argc, char*** argv) {
    for (int i = 1; i < *argc; ++i) {
        const std::filesystem::path folder = (*argv)[i];
        if (!std::filesystem::is_directory(folder)) continue;
        int n = 0;
        for (const fuzz::Bytes& seed : target().seeds())
            std::ofstream(folder / ("seed-" + std::to_string(n++)), std::ios::binary)
                .write(reinterpret_cast<const char*>(seed.data()), static_cast<std::streamsize>(seed.size()));
        break;
    }
    return 0;
}

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    static const std::filesystem::path folder = [] {
        auto made = std::filesystem::temp_directory_path() / ("mirolux-fuzz-" + std::to_string(getpid()));
        std::filesystem::create_directories(made);
        return made;
    }();
    target().run(fuzz::Bytes(data, data + size), folder);
    return 0;
}
