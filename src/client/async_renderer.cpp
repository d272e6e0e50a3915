#include "client/async_renderer.h"

namespace mirolux {

AsyncRenderer::AsyncRenderer(WorkerOptions options, Listener listener)
    : client_(std::move(options)), listener_(std::move(listener)) {
    client_.on_event([this](const WorkerEvent& e) {
        if (listener_.event) listener_.event(e);
    });
    thread_ = std::thread([this] { loop(); });
}

AsyncRenderer::~AsyncRenderer() {
    {
        std::lock_guard lock(mutex_);
        ending_ = true;
    }
    wake_.notify_all();
    thread_.join();
}

void AsyncRenderer::submit(RenderRequest request) {
    {
        std::lock_guard lock(mutex_);
        if (next_) ++replaced_;
        next_ = std::move(request);
    }
    wake_.notify_all();
}

void AsyncRenderer::run(std::function<void(RenderSession&)> job) {
    {
        std::lock_guard lock(mutex_);
        jobs_.push_back(std::move(job));
    }
    wake_.notify_all();
}

void AsyncRenderer::use_shader_folder(const std::string& folder) {
    {
        std::lock_guard lock(mutex_);
        folder_ = folder;
    }
    wake_.notify_all();
}

void AsyncRenderer::loop() {
    (void)client_.start(); // its failure is reported by the first request
    bool deviceTold = false;
    for (;;) {
        std::optional<RenderRequest> request;
        std::function<void(RenderSession&)> job;
        std::optional<std::string> folder;
        {
            std::unique_lock lock(mutex_);
            wake_.wait(lock, [&] { return ending_ || next_ || !jobs_.empty() || folder_; });
            if (ending_) return;
            folder.swap(folder_);
            if (jobs_.empty())
                request.swap(next_);
            else {
                job = std::move(jobs_.front());
                jobs_.pop_front();
            }
        }
        if (folder) client_.use_shader_folder(*folder);
        if (job) job(client_);
        if (!request) continue;
        const int pidBefore = client_.worker_pid();
        auto record = client_.render(request->scene, request->setup, request->view, request->options);
        const bool good = record.has_value(), replacedWorker = !good && client_.worker_pid() != pidBefore;
        listener_.answered(*request, std::move(record));
        if (good) {
            lastGood_ = std::move(request);
            if (!deviceTold && listener_.device) {
                deviceTold = true;
                listener_.device(client_.device());
            }
        } else if (replacedWorker && lastGood_) {
            // A new worker: show the last state that was known to work, unless something newer waits.
            std::lock_guard lock(mutex_);
            if (!next_) next_ = lastGood_;
            lastGood_.reset();
        }
    }
}

} // namespace mirolux
