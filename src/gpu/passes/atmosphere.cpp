#include "core/sky/sky.h"
#include "gpu/passes/surface_pass.h"

namespace mirolux::gpu {

namespace {

/// What a table was made from; as long as that is the same in the same memory, so is the table.
struct TableMemory {
    std::string digest;
    std::uint64_t serial = 0;
    bool operator==(const TableMemory&) const = default;
};

/// Parameters that a table depends on, and the memory that it lies in.
TableMemory memory_of(const PassFrame& f, const std::string& resource, const std::vector<std::string>& parameters) {
    Digest digest;
    for (const std::string& name : parameters)
        if (const auto it = f.plan.parameters.find(name); it != f.plan.parameters.end())
            digest.add(&it->second, sizeof it->second);
    const std::string shape = f.inputs.setup.flag("sky.multiple") ? "" : " once";
    return {digest.hex() + shape, f.resources.serial(resource)};
}

/// A table's picture: a stage and where it draws.
struct Table {
    Stage stage;
    PassState state;
};

Result<Table> table_of(PassFrame& f, const std::string& shader, const std::string& resource) {
    auto stage = f.screen_stage("atmosphere/" + shader, sky_defines(f.inputs.setup, f.plan));
    if (!stage) return tl::unexpected(stage.error());
    auto state = f.state({resource});
    if (!state) return tl::unexpected(state.error());
    return Table{std::move(*stage), *state};
}

/// Draws tables one after the other, unless they still hold what they would hold.
Result<Commands> draw_tables(PassFrame& f, const std::vector<std::pair<std::string, std::string>>& wanted,
                             const std::vector<std::string>& parameters) {
    std::vector<Table> tables;
    for (const auto& [shader, resource] : wanted) {
        auto table = table_of(f, shader, resource);
        if (!table) return tl::unexpected(table.error());
        tables.push_back(std::move(*table));
    }
    const std::string name = "tables from " + wanted.front().second;
    const TableMemory now = memory_of(f, wanted.front().second, parameters);
    const bool always = f.inputs.setup.choice("sky.update") == "always";
    return [&f, tables = std::move(tables), name, now, always] {
        std::any& kept = f.store.objects[name];
        const auto* held = std::any_cast<TableMemory>(&kept);
        if (!always && held && *held == now) {
            f.drawn = Work{};
            return;
        }
        for (const Table& t : tables) {
            f.draw_screen(t.stage, t.state);
            f.vitals.beat();
        }
        f.drawn = Work::drawing(tables.size(), tables.size());
        kept = now;
    };
}

Result<Commands> perspective(PassFrame& f) {
    auto stage = f.stage({{GL_COMPUTE_SHADER, "atmosphere/perspective.glsl", ""}}, sky_defines(f.inputs.setup, f.plan));
    if (!stage) return tl::unexpected(stage.error());
    return [stage = std::move(*stage)] {
        stage.use();
        glDispatchCompute(4, 4, 1); // 32 x 32 columns
        glMemoryBarrier(GL_TEXTURE_FETCH_BARRIER_BIT | GL_FRAMEBUFFER_BARRIER_BIT);
    };
}

Result<Commands> prepare_atmosphere(PassFrame& f, const PlannedPass& pass) {
    static const std::vector<std::string> air = {"skyRayleigh", "skyMie", "skyMieAbsorption", "skyOzone"};
    if (pass.name == "air before surfaces") return perspective(f);
    if (pass.name == "sky view") {
        std::vector<std::string> all = air;
        all.insert(all.end(), {"skySun", "skyMoon", "skyLight", "skyGlow", "skyMore"});
        return draw_tables(f, {{"view.glsl", "sky view"}}, all);
    }
    std::vector<std::pair<std::string, std::string>> tables = {{"depths.glsl", "optical depths"}};
    if (pass.writes.size() > 1)
        tables.insert(tables.end(), {{"multiple.glsl", "multiple scattering"}, {"ground.glsl", "ground light"}});
    return draw_tables(f, tables, air);
}

} // namespace

const GpuTechnique technique::atmosphere{prepare_atmosphere};

} // namespace mirolux::gpu
