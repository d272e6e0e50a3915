#pragma once
#include "gpu/frame/gpu_structs.h"
#include "gpu/frame/scene_resources.h"

namespace mirolux::gpu {

/// Commands that draw the scene's meshes, and what each of their instances is: its number in the list that the vertex
/// shader reads (DrawBuffer, CasterBuffer).
struct CommandList {
    std::vector<DrawCommand> commands;
    std::vector<std::uint32_t> numbers; // of all instances; a command's begin at its baseInstance

    /// One more draw, by a command of its own.
    void add(const SceneResources::Slice& mesh, std::uint32_t number) {
        commands.push_back(
            {mesh.count, 1, mesh.firstIndex, mesh.baseVertex, static_cast<std::uint32_t>(numbers.size())});
        numbers.push_back(number);
    }
    /// One more draw as another instance of the last command; false where that draws another mesh.
    bool extend(const SceneResources::Slice& mesh, std::uint32_t number) {
        if (commands.empty()) return false;
        DrawCommand& last = commands.back();
        if (last.firstIndex != mesh.firstIndex || last.baseVertex != mesh.baseVertex) return false;
        ++last.instances;
        numbers.push_back(number);
        return true;
    }
};

} // namespace mirolux::gpu
