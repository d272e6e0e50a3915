#pragma once
#include "gpu/frame/gpu_structs.h"
#include "gpu/frame/scene_resources.h"

namespace mirolux::gpu {

/// Commands that draw the scene's meshes, and what the vertex stage reads of each of their instances.
struct CommandList {
    std::vector<DrawCommand> commands;
    std::vector<InstanceData> instances; // a command's begin at its baseInstance

    /// One more draw, by a command of its own.
    void add(const SceneResources::Slice& mesh, const InstanceData& instance) {
        commands.push_back(
            {mesh.count, 1, mesh.firstIndex, mesh.baseVertex, static_cast<std::uint32_t>(instances.size())});
        instances.push_back(instance);
    }
    /// One more draw as another instance of the last command; false where that draws another mesh.
    bool extend(const SceneResources::Slice& mesh, const InstanceData& instance) {
        if (commands.empty()) return false;
        DrawCommand& last = commands.back();
        if (last.firstIndex != mesh.firstIndex || last.baseVertex != mesh.baseVertex) return false;
        ++last.instances;
        instances.push_back(instance);
        return true;
    }
};

} // namespace mirolux::gpu
