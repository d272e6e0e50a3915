#pragma once
#include "core/cost/device_profile.h"
#include "core/scene/scene.h"
#include <functional>
#include <memory>
#include <string>

namespace mirolux {

struct WorkerOptions {
    std::string workerPath;        // empty: mirolux-worker beside this program, or MIROLUX_WORKER
    bool software = false;         // ask for the software rasteriser
    std::string shaderFolder;      // files there stand before the built-in shaders
    double watchdogSeconds = 30.0; // without a sign of life for this long, the worker is ended and started again; a
                                   // single long draw gives none while it runs
    std::size_t memoryLimit = 0;   // bytes that a frame's targets may take; 0: a quarter of the machine's memory
    bool background = false;       // runs only where nothing else wants the processor
    bool eager = false;            // it takes its share all the same: for tests, on machines that are never at rest
};

/// What happened to the worker that a person should know, in one line.
struct WorkerEvent {
    enum class Kind { started, restarted, lost } kind;
    std::string text;
};

/// RenderSession through a worker process. Synchronous; use from one thread. A worker that hangs or dies is started
/// again: the call under way fails with one Error, the next one is answered by the new worker. After a hang a shader
/// folder is set aside until use_shader_folder() names it again.
class WorkerClient final : public RenderSession {
public:
    explicit WorkerClient(WorkerOptions options);
    ~WorkerClient() override;
    Result<FrameRecord> render(const Scene& scene, const Setup& setup, const View& view,
                               const RenderOptions& options) override;
    Result<DeviceInfo> device() override;
    Result<std::vector<Workload>> calibrate(int sweeps) override;

    /// Starts the worker if it does not run; called by render and device as needed.
    Result<void> start();
    void use_shader_folder(const std::string& folder);
    void on_event(std::function<void(const WorkerEvent&)> listener);
    /// Seconds without a sign of life until the worker is ended; holds at once, from any thread.
    void set_watchdog(double seconds);
    /// Process id of the running worker, or 0.
    int worker_pid() const;

private:
    struct Impl;
    std::unique_ptr<Impl> impl_;
};

} // namespace mirolux
