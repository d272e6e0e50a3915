#pragma once
#include "core/cost/device_profile.h"
#include "gpu/frame/generated.h"
#include "gpu/frame/resource_pool.h"
#include "gpu/frame/scene_resources.h"
#include "gpu/gl/context.h"
#include "gpu/gl/program.h"
#include "gpu/passes/pass_frame.h"
#include <optional>

namespace mirolux::gpu {

struct SessionOptions {
    bool software = false;         // ask for the software rasteriser
    std::string shaderFolder = {}; // files there stand before the built-in ones and are read again when they change
    std::size_t memoryLimit = 0;   // bytes that a frame's targets may take; 0: a quarter of the machine's memory
};

/// Renders in this process, on the thread that made it: plans a frame, runs its passes, times them, counts their work.
class Session final : public RenderSession {
public:
    ~Session() override { context_->make_current(); } // its objects are deleted in it
    static Result<std::unique_ptr<Session>> create(const SessionOptions& options = {});

    Result<FrameRecord> render(const Scene& scene, const Setup& setup, const View& view,
                               const RenderOptions& options) override;
    Result<DeviceInfo> device() override;
    Result<std::vector<Workload>> calibrate(int sweeps) override;

    /// Signs of life and words for what is going on; read from any thread.
    Vitals& vitals() { return *vitals_; }
    const ShaderLibrary& shaders() const { return programs_.library(); }
    std::size_t programs() const { return programs_.size(); }
    /// Plans with a technique beside those of the registry, after them. Both must outlive the session.
    void add(const Technique& technique, const GpuTechnique& side);

private:
    Session(std::unique_ptr<Context> context, ShaderLibrary library, const SessionOptions& options);

    /// What the passes of one frame are prepared with: a frame for each eye (one without stereo), and one that draws
    /// both eyes at once. Stays where it is: commands point into it.
    struct Frame {
        FrameInputs inputs;
        FramePlan plan;
        GeneratedFiles generated;
        ResourceSet* resources = nullptr;
        std::vector<std::unique_ptr<PassFrame>> eyes;
        std::unique_ptr<PassFrame> both;
        std::vector<PassFrame*> all() const;
    };
    /// What a pass does, for all eyes.
    using Prepared = std::vector<Commands>;

    Result<void> take_scene(const Scene& scene);
    Result<std::unique_ptr<Frame>> make_frame(const FrameInputs& inputs, double gatherMs = 0);
    void upload(Frame& frame);
    void fill_commands(PassFrame& frame);
    Result<Prepared> prepare_pass(const PlannedPass& pass, Frame& frame);
    Result<std::vector<Prepared>> prepare_all(Frame& frame);
    static void run_pass(const Prepared& prepared);
    Result<Commands> injected_work(int rounds);

    /// Frames that history needs before this one; returns where the frame stands in its sequence. scene: `asked` as it
    /// stands at the view's time, with its light map.
    Result<FrameTime> settle(const Scene& asked, const Scene& scene, const Setup& setup, const View& view,
                             const DrawList& list, const RenderOptions& options);
    Result<void> run_frame(Frame& frame, const std::vector<Prepared>& prepared, FrameRecord& record,
                           const RenderOptions& options);
    void time_passes(const std::vector<Prepared>& steps, FrameRecord& record, const RenderOptions& options);
    Result<void> fill_ledger(Frame& frame, FrameRecord& record);
    Result<void> run_ledger(Frame& frame);
    Result<void> enter_surfaces(Frame& frame, FrameRecord& record);
    Result<void> read_probe(glm::ivec2 shownPixel, PassFrame& frame, FrameRecord& record);
    /// What the last run of a pass drew, where that need not be all that was planned.
    static void take_drawn(const Frame& frame, const PlannedPass& pass, Work& work);
    Result<void> count_work(Frame& frame, FrameRecord& record);
    void enter_draws_left(Frame& frame, FrameRecord& record);
    Result<void> read_outputs(Frame& frame, const RenderOptions& options, FrameRecord& record);
    /// The frame's answers beside times: counts, lists, probe, pictures, ledger.
    Result<void> answer(Frame& frame, const std::vector<Prepared>& prepared, const RenderOptions& options,
                        FrameRecord& record);
    /// Targets with their plain values; what was overwritten since the wanted pass is drawn again up to it.
    Result<void> read_targets(Frame& frame, const std::vector<Prepared>& prepared, const RenderOptions& options,
                              FrameRecord& record);
    /// Thumbnails of what each pass wrote: the frame once more, pass by pass.
    Result<void> read_writes(Frame& frame, const std::vector<Prepared>& prepared, const RenderOptions& options,
                             FrameRecord& record);
    /// What a target with several samples a pixel holds, with one; depths of the first sample.
    Result<Scratch*> resolved(const PlannedResource& resource, GLuint framebuffer);
    /// Passes that look at a frame beside its own read one depth a pixel.
    Result<void> show_single_depth(PassFrame& frame);
    Result<void> check_size(const FramePlan& plan) const;
    Result<void> check(const char* step);

    friend class LayerOutputs;
    std::unique_ptr<Context> context_;
    ProgramCache programs_;
    std::size_t memoryLimit_;
    std::unique_ptr<SceneResources> scene_;
    ResourcePool pool_;
    ScratchPool scratch_;
    DeviceStore store_;
    VertexArray empty_;
    std::optional<DeviceInfo> device_;
    std::unique_ptr<Vitals> vitals_ = std::make_unique<Vitals>();
    std::vector<const Technique*> more_;
    bool software_ = false;
    std::optional<FrameBefore> before_;     // of the sequence
    std::uint64_t index_ = 0;               // of the next frame, since the last reset
    const ResourceSet* sequence_ = nullptr; // that the sequence's last frame was drawn with; it may be freed
    /// What the targets hold at present, so that a request about the same frame need not draw it again.
    struct Held {
        Scene scene;
        Setup setup;
        View view;
        bool history = false;
        std::vector<int> leftOut; // DrawList::leftOut
        const ResourceSet* resources = nullptr;
    };
    std::optional<Held> held_;
};

} // namespace mirolux::gpu
