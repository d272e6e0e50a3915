#pragma once
#include "client/worker_client.h"
#include <atomic>
#include <condition_variable>
#include <deque>
#include <mutex>
#include <optional>
#include <thread>

namespace mirolux {

struct RenderRequest {
    std::uint64_t id = 0;
    Scene scene;
    Setup setup;
    View view;
    RenderOptions options;
};

/// Renders on a thread of its own. The newest request wins: one that waits is replaced, never queued. Long jobs
/// (measurements) run on the same thread between requests. Listeners are called on that thread.
class AsyncRenderer {
public:
    struct Listener {
        std::function<void(const RenderRequest&, Result<FrameRecord>)> answered;
        std::function<void(const WorkerEvent&)> event;
        std::function<void(Result<DeviceInfo>)> device; // once, after the first picture
    };
    AsyncRenderer(WorkerOptions options, Listener listener);
    ~AsyncRenderer();

    void submit(RenderRequest request);
    /// Runs `job` with the session as soon as the request under way is answered, after the jobs before it.
    void run(std::function<void(RenderSession&)> job);
    void use_shader_folder(const std::string& folder);
    void set_watchdog(double seconds) { client_.set_watchdog(seconds); }
    int worker_pid() const { return client_.worker_pid(); }
    /// Requests that were replaced before they were rendered.
    std::uint64_t replaced() const { return replaced_; }

private:
    void loop();
    WorkerClient client_;
    Listener listener_;
    std::mutex mutex_;
    std::condition_variable wake_;
    std::optional<RenderRequest> next_;
    std::optional<RenderRequest> lastGood_;
    std::deque<std::function<void(RenderSession&)>> jobs_; // in the order that they were asked for
    std::optional<std::string> folder_;
    std::atomic<std::uint64_t> replaced_{0};
    bool ending_ = false;
    std::thread thread_;
};

} // namespace mirolux
