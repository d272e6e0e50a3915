#include "gpu/passes/skinning.h"
#include "core/motion/scene_at.h"
#include "core/motion/skinning.h"
#include "gpu/frame/gpu_structs.h"
#include "gpu/passes/surface_pass.h"

namespace mirolux::gpu {

void provide_bodies(PassFrame& f) {
    const FrameInputs& in = f.inputs;
    if (skinning_of(in.scene, in.setup) == Skinning::none) return;
    const SceneAsset& asset = *in.scene.asset;
    const Rig& rig = *asset.rig;
    const Pose* now = pose_of(asset, in.scene.placed.get());
    const Pose* before = in.before ? pose_of(asset, in.before->placed.get()) : now;
    std::vector<glm::mat4> joints;
    std::vector<float> weights;
    std::vector<std::uint32_t> firstJoint[2], firstWeight[2];
    for (int k = 0; k < 2; ++k) {
        const Pose& pose = k == 0 ? *now : *before;
        for (const auto& of : pose.joints) {
            firstJoint[k].push_back(static_cast<std::uint32_t>(joints.size()));
            joints.insert(joints.end(), of.begin(), of.end());
        }
        for (const Body& b : rig.bodies) {
            firstWeight[k].push_back(static_cast<std::uint32_t>(weights.size()));
            for (const double w : pose.weights[static_cast<std::size_t>(b.node)])
                weights.push_back(static_cast<float>(w));
            // A primitive may have fewer shapes than the node has weights, and the other way round.
            weights.resize(firstWeight[k].back() + static_cast<std::size_t>(b.bending->shapes), 0.0f);
        }
    }
    std::vector<BodyData> bodies;
    for (std::size_t i = 0; i < rig.bodies.size(); ++i) {
        BodyData d = f.scene.body(i);
        if (const int skin = rig.bodies[i].skin; skin >= 0) {
            d.joints = firstJoint[0][static_cast<std::size_t>(skin)];
            d.jointsBefore = firstJoint[1][static_cast<std::size_t>(skin)];
        }
        d.weights = firstWeight[0][i];
        d.weightsBefore = firstWeight[1][i];
        bodies.push_back(d);
    }
    f.upload("BodyBuffer", bodies.data(), bodies.size() * sizeof(BodyData));
    f.upload("JointBuffer", joints.data(), joints.size() * sizeof(glm::mat4));
    f.upload("ShapeWeightBuffer", weights.data(), weights.size() * sizeof(float));
    f.buffers["RestBuffer"] = {f.scene.rest(), 0, 0};
    f.buffers["InfluenceBuffer"] = {f.scene.influences(), 0, 0};
    f.buffers["ShapeBuffer"] = {f.scene.shape_changes(), 0, 0};
}

namespace {

Result<Commands> prepare_skinning(PassFrame& f, const PlannedPass&) {
    f.buffers["VertexBuffer"] = {f.scene.vertices(), 0, 0};
    auto stage = f.stage({{GL_COMPUTE_SHADER, "skinning/bend.glsl", ""}}, {});
    if (!stage) return tl::unexpected(stage.error());
    struct Run {
        GLuint body, groups;
    };
    std::vector<Run> runs;
    const Scene& scene = f.inputs.scene;
    const std::vector<Body>& bodies = scene.asset->rig->bodies;
    for (std::size_t b = 0; b < bodies.size(); ++b)
        if (!scene.objects()[static_cast<std::size_t>(bodies[b].object)].hidden)
            runs.push_back({static_cast<GLuint>(b), (f.scene.body(b).vertices + 63) / 64});
    const GLint body = stage->uniform("body");
    return [stage = std::move(*stage), runs = std::move(runs), body] {
        stage.use();
        for (const Run& r : runs) {
            glProgramUniform1ui(stage.name(), body, r.body);
            glDispatchCompute(r.groups, 1, 1);
        }
        glMemoryBarrier(GL_VERTEX_ATTRIB_ARRAY_BARRIER_BIT | GL_SHADER_STORAGE_BARRIER_BIT);
    };
}

} // namespace

const GpuTechnique technique::skinning{prepare_skinning};

} // namespace mirolux::gpu
