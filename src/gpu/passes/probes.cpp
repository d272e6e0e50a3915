#include "core/ambient/probes.h"
#include "gpu/passes/lobes.h"

namespace mirolux::gpu {

namespace {

/// shaders/include/light_probes.glsl.
struct LightProbeData {
    glm::vec4 place, center, extent, turn;
    glm::vec4 harmonics[9];
};
static_assert(sizeof(LightProbeData) == 13 * 16);

/// What lobes were gathered from; as long as that is the same in the same memory, so are they.
struct Gathered {
    std::shared_ptr<const ProbeLight> light;
    std::uint64_t serial = 0;
    int samples = 0;
    std::uint64_t done = 0; // faces, of all
    bool operator==(const Gathered&) const = default;
};
constexpr const char* gathered_key = "probes' lobes, gathered";

Result<Commands> prepare_probes(PassFrame& f, const PlannedPass&) {
    const CapturedProbes captured = captured_probes(f.inputs.scene, f.inputs.setup);
    const LobeLevels levels = probe_levels(f.inputs.setup);
    const GLuint cube = cube_view(f, probe_faces_resource, GL_TEXTURE_CUBE_MAP, 6, "a probe's faces as a cube ");
    std::vector<std::shared_ptr<const CubeOfPicture>> sources;
    std::vector<Gathered> now;
    for (const CapturedProbe& p : captured.probes) {
        sources.emplace_back(p.light, &p.light->bright);
        now.push_back({p.light, f.resources.serial(probe_lobes_resource), levels.samples});
    }
    auto gather = LobeGather::prepare(f, levels, cube, "probes", sources);
    if (!gather) return tl::unexpected(gather.error());
    return
        [&f, gather = std::move(*gather), sources, now, size = levels.size,
         faces = f.resources.texture(probe_faces_resource, -1), lobes = f.resources.texture(probe_lobes_resource, -1),
         always = f.inputs.setup.choice("environment.update") == "always"] {
            f.drawn = Work{};
            std::any& store = f.store.objects[gathered_key];
            if (!std::any_cast<std::vector<Gathered>>(&store)) store = std::vector<Gathered>();
            auto& held = *std::any_cast<std::vector<Gathered>>(&store);
            held.resize(now.size());
            std::uint64_t draws = 0, done = 0;
            const GatherSlice slice(f);
            for (std::size_t i = 0; i < sources.size(); ++i) {
                Gathered of = held[i];
                const std::uint64_t before = std::exchange(of.done, 0);
                const bool same = !always && of == now[i];
                if (same && before == gather.faces()) {
                    done += before;
                    continue;
                }
                if (draws > 0 && slice.over()) continue; // in a frame to come
                glTextureSubImage3D(faces, 0, 0, 0, 0, size, size, 6, GL_RGBA, GL_FLOAT, sources[i]->rest.data.data());
                glGenerateTextureMipmap(faces);
                held[i] = now[i];
                held[i].done = gather.draw(f, i, lobes, static_cast<int>(i) * 6 * LobeLevels::cubes,
                                           now[i].light->scale, same ? before : 0, slice);
                draws += gather.draws(i, same ? before : 0, held[i].done);
                done += held[i].done;
            }
            f.drawn = Work::drawing(draws, draws);
            if (done < sources.size() * gather.faces()) tell_gathering(f, done, sources.size() * gather.faces());
        };
}

void provide_probes(PassFrame& f) {
    if (!uses_probes(f.inputs.setup)) return;
    const CapturedProbes captured = captured_probes(f.inputs.scene, f.inputs.setup);
    if (captured.probes.empty()) return;
    std::vector<LightProbeData> data;
    for (const CapturedProbe& p : captured.probes) {
        const Probe& probe = p.probe;
        LightProbeData d{{probe.position, probe.blend},
                         {probe.center, probe.weight},
                         {0.5f * probe.size, static_cast<float>(p.light->scale)},
                         {std::cos(probe.turn), std::sin(probe.turn), 0, 0},
                         {}};
        for (std::size_t i = 0; i < 9; ++i)
            d.harmonics[i] = glm::vec4(glm::vec3(p.light->harmonics[i]), 0);
        data.push_back(d);
    }
    f.upload("LightProbeBuffer", data.data(), data.size() * sizeof(LightProbeData));
    if (!environment_mirrored(f.inputs.setup)) return;
    glEnable(GL_TEXTURE_CUBE_MAP_SEAMLESS);
    f.textures["probeLobes"] =
        cube_view(f, probe_lobes_resource, GL_TEXTURE_CUBE_MAP_ARRAY,
                  6 * LobeLevels::cubes * static_cast<int>(captured.probes.size()), "probes by lobes, as cubes ");
}

} // namespace

const GpuTechnique technique::probes{prepare_probes, provide_probes};

} // namespace mirolux::gpu
