#pragma once
#include "core/cost/device_profile.h"
#include "gpu/frame/scene_resources.h"
#include "gpu/frame/targets.h"
#include "gpu/gl/context.h"
#include "gpu/gl/program.h"
#include "gpu/passes/pass.h"
#include <optional>

namespace mirolux::gpu {

/// Renders in this process, on the thread that made it: plans a frame, runs its passes, times them, counts their work.
class Session final : public RenderSession {
public:
    /// shaderFolder: files there stand before the built-in ones and are read again when they change.
    ~Session() override { context_->make_current(); } // its objects are deleted in it
    static Result<std::unique_ptr<Session>> create(bool software = false, const std::string& shaderFolder = {});

    Result<FrameRecord> render(const Scene& scene, const Setup& setup, const View& view,
                               const RenderOptions& options) override;
    Result<DeviceInfo> device() override;
    Result<std::vector<Workload>> calibrate(int sweeps) override;

    /// Called between passes and inside long ones.
    void on_alive(std::function<void()> alive) { alive_ = std::move(alive); }
    const ShaderLibrary& shaders() const { return programs_.library(); }

private:
    Session(std::unique_ptr<Context> context, ShaderLibrary library);
    /// What the passes of one frame read: a context for each eye (one without stereo), and one that draws both eyes at
    /// once.
    struct Frame {
        std::vector<PassContext> eyes;
        std::optional<PassContext> both;
    };
    Frame make_frame(const Setup& setup, const View& view, const DrawList& list, const PathShape& path);
    void upload(const Scene& scene, const Setup& setup, const View& view, const DrawList& list, Frame& frame,
                FrameRecord& record);
    void fill_commands(const DrawList& list, PassContext& context, Buffer& buffer);
    Result<void> upload_grid(const Setup& setup, const View& view, const DrawList& list, Frame& frame);
    /// Binds what differs between eyes: the frame's data and the light lists.
    void bind_eye(const PassContext& context);
    Result<void> prepare_pass(const PlannedPass& planned, Frame& frame);
    /// For all eyes.
    void run_pass(const PlannedPass& planned, Frame& frame);
    /// part 0: the lists of opaque surfaces, 1: of blended ones.
    cull::LightGrid read_grid(const PassContext& context, int tile, int part) const;
    static int cull_lanes(const Setup& setup);
    /// The self-test's pass of known work.
    void inject_work(GLuint program, int rounds);
    Result<void> run_frame(const FramePlan& plan, Frame& frame, FrameRecord& record, const RenderOptions& options);
    Result<void> fill_ledger(const FramePlan& plan, PassContext& context, FrameRecord& record);
    Result<void> read_probe(glm::ivec2 pixel, PassContext& context, FrameRecord& record);
    Result<void> count_work(const FramePlan& plan, Frame& frame, FrameRecord& record);
    Result<void> read_outputs(const View& view, Frame& frame, const RenderOptions& options, FrameRecord& record);
    Result<void> draw_layers(PassContext& context, LayerTargets& targets);
    Result<ByteImage> view_of(GLuint texture, int mode, int width, int height);
    Result<void> check(const char* step);

    std::unique_ptr<Context> context_;
    ProgramCache programs_;
    std::unique_ptr<SceneResources> scene_;
    TargetPool pool_;
    Buffer lights_{"lights"}, draws_{"draws"}, lightIndices_{"light indices"}, commands_{"commands"},
        bothFrames_{"frames"}, bothCommands_{"commands of both eyes"}, counters_{"counters"}, grid_{"grid"},
        lists_{"light lists"}, ledger_{"ledger"};
    struct Eye {
        Buffer frame{"frame"}, cullLights{"cull lights"}, overflow{"list overflow"};
    };
    Eye eyes_[2];
    std::optional<ProxyMeshes> proxies_;
    VertexArray empty_;
    Texture lightTexels_, listTexels_; // lights_ and lists_ as buffer textures
    std::optional<DeviceInfo> device_;
    std::function<void()> alive_;
    int listCapacity_ = 0;
    GLsizeiptr listBytes_ = 0; // of one eye's lists
    /// What the targets hold at present, so that a request about the same frame need not draw it again.
    struct Held {
        Scene scene;
        Setup setup;
        View view;
    };
    std::optional<Held> held_;
};

} // namespace mirolux::gpu
