#include "cli/commands.h"
#include "core/scene/gltf_export.h"
#include <fmt/format.h>

// export: a Solid scene with the project's edits, as glTF.
namespace mirolux::cli {

int export_scene(const Common& c, const std::string& output) {
    if (std::filesystem::path(output).extension() != ".glb")
        return complain({"the file has another ending", output, "End the name in .glb."}, badInput);
    if (auto ok = can_write({output, c.json}); !ok) return complain(ok.error(), badInput);
    auto s = solid_subject_of(c, true);
    if (!s) return complain(s.error(), badInput);
    auto done = export_gltf(s->open.project, s->open.asset, output);
    if (!done) return complain(done.error(), badInput);
    const auto bytes = std::filesystem::file_size(output);
    for (const std::string& w : *done)
        std::fprintf(stderr, "warning: %s\n", w.c_str());
    return deliver(
        c, fmt::format("{}: {:.2f} MiB\n", output, double(bytes) / (1 << 20)),
        {{"schema", "mirolux.export"}, {"version", 1}, {"file", output}, {"bytes", bytes}, {"warnings", *done}});
}

} // namespace mirolux::cli
