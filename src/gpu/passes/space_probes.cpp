#include "core/bake/space_probes.h"
#include "core/bake/texel_store.h"
#include "gpu/passes/map_textures.h"
#include "gpu/passes/surface_pass.h"
#include <cmath>

namespace mirolux::gpu {

namespace {

/// What the textures of a grid were filled from.
struct FilledGrid {
    std::shared_ptr<const ProbeGrid> grid;
    std::uint64_t serials[2] = {0, 0};
};

void fill_light(PassFrame& f, const ProbeGrid& grid, int layers) {
    const ProbeSheet sheet = probe_sheet(grid);
    const auto texels = static_cast<std::size_t>(sheet.across) * static_cast<std::size_t>(sheet.down);
    for (int c = 0; c < layers; ++c) {
        std::vector<std::uint16_t> halves(4 * texels, 0);
        for (std::size_t i = 0; i < grid.size(); ++i) {
            for (int k = 0; k < 3; ++k)
                halves[4 * i + static_cast<std::size_t>(k)] = half_of(grid.light[i][static_cast<std::size_t>(c)][k]);
            halves[4 * i + 3] = half_of(grid.walled[i] ? 0.0f : 1.0f);
        }
        glTextureSubImage3D(f.resources.texture(probe_light_resource, -1), 0, 0, 0, c, sheet.across, sheet.down, 1,
                            GL_RGBA, GL_HALF_FLOAT, halves.data());
    }
}

void fill_distances(PassFrame& f, const ProbeGrid& grid) {
    constexpr int side = ProbeGrid::side, tile = side + 2;
    const ProbeSheet sheet = probe_sheet(grid);
    const auto width = static_cast<std::size_t>(sheet.across * tile);
    std::vector<std::uint16_t> texels(2 * width * static_cast<std::size_t>(sheet.down * tile), 0);
    const float far = grid.far();
    for (std::size_t i = 0; i < grid.size(); ++i)
        for (int y = -1; y <= side; ++y)
            for (int x = -1; x <= side; ++x) {
                const glm::ivec2 t = folded_texel({x, y}, side);
                const glm::vec2 d = grid.distances[i][static_cast<std::size_t>(t.y * side + t.x)];
                const std::size_t column = i % static_cast<std::size_t>(sheet.across) * tile +
                                           static_cast<std::size_t>(x + 1),
                                  row = i / static_cast<std::size_t>(sheet.across) * tile +
                                        static_cast<std::size_t>(y + 1);
                std::uint16_t* to = &texels[2 * (row * width + column)];
                to[0] = static_cast<std::uint16_t>(std::lround(65535 * std::min(d.x / far, 1.0f)));
                to[1] = static_cast<std::uint16_t>(std::lround(65535 * std::min(d.y / (far * far), 1.0f)));
            }
    const GLuint texture = f.resources.texture(probe_distances_resource, -1);
    glPixelStorei(GL_UNPACK_ALIGNMENT, 1);
    glTextureSubImage2D(texture, 0, 0, 0, static_cast<GLsizei>(width), sheet.down * tile, GL_RG, GL_UNSIGNED_SHORT,
                        texels.data());
    glPixelStorei(GL_UNPACK_ALIGNMENT, 4);
    glTextureParameteri(texture, GL_TEXTURE_MIN_FILTER, GL_LINEAR);
    glTextureParameteri(texture, GL_TEXTURE_MAG_FILTER, GL_LINEAR);
}

void provide_space_probes(PassFrame& f) {
    const PlannedResource* light = f.plan.resource(probe_light_resource);
    const auto grid = shown_grid(f.inputs.scene, f.inputs.setup);
    if (!light || !grid) return;
    const bool visibility = f.plan.resource(probe_distances_resource) != nullptr;
    std::any& kept = f.store.objects["space probes, filled"];
    if (!std::any_cast<FilledGrid>(&kept)) kept = FilledGrid();
    FilledGrid& filled = *std::any_cast<FilledGrid>(&kept);
    const std::uint64_t serials[2] = {f.resources.serial(probe_light_resource),
                                      visibility ? f.resources.serial(probe_distances_resource) : 0};
    if (filled.grid != grid || filled.serials[0] != serials[0]) fill_light(f, *grid, light->layers);
    if (visibility && (filled.grid != grid || filled.serials[1] != serials[1])) fill_distances(f, *grid);
    if (f.plan.resource(probe_places_resource)) {
        const GLuint buffer = f.resources.buffer(probe_places_resource);
        if (needs_filling(f, probe_places_resource, grid)) { // buffers of the plan take copies alone
            std::vector<glm::vec4> places;
            for (const glm::vec3& p : grid->placed)
                places.emplace_back(p, 1.0f);
            Buffer staged("space probes' places, staged");
            staged.upload(places.data(), places.size() * sizeof(glm::vec4));
            glCopyNamedBufferSubData(staged.name(), buffer, 0, 0,
                                     static_cast<GLsizeiptr>(places.size() * sizeof(glm::vec4)));
        }
        f.buffers["ProbePlaceBuffer"] = {buffer, 0, 0};
    }
    filled = {grid, {serials[0], visibility ? serials[1] : filled.serials[1]}};
    f.textures["probeLight"] = f.resources.texture(probe_light_resource, -1);
}

} // namespace

const GpuTechnique technique::space_probes{nullptr, provide_space_probes};

} // namespace mirolux::gpu
