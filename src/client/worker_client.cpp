#include "client/worker_client.h"
#include "client/messages.h"
#include "core/base/text.h"
#include "core/blocks/world_edits.h"
#include "core/flat/world_json.h"
#include <atomic>
#include <chrono>
#include <csignal>
#include <cstring>
#include <spawn.h>
#include <sys/wait.h>
#include <unistd.h>

extern char** environ;

namespace mirolux {

using Clock = std::chrono::steady_clock;

static std::string default_worker_path() {
    if (const char* named = std::getenv("MIROLUX_WORKER")) return named;
    std::error_code ec;
    const auto self = std::filesystem::read_symlink("/proc/self/exe", ec);
    return (self.parent_path() / "mirolux-worker").string();
}

struct WorkerClient::Impl {
    WorkerOptions options;
    zmq::context_t context{1};
    std::unique_ptr<zmq::socket_t> socket;
    pid_t pid = 0;
    std::uint64_t serial = 0;
    bool startedBefore = false, foldersAside = false;
    std::function<void(const WorkerEvent&)> listener;
    std::atomic<int> shownPid{0};
    std::atomic<double> patience{30.0}; // s, options.watchdogSeconds at first
    std::string doing;                  // what the worker said last that it is at
    // What the worker knows of the scene, so that only differences are sent.
    std::string sentScene;
    SceneChoice sentChoice;
    std::uint64_t sentDigest = 0;
    std::vector<Light> sentLights;
    std::shared_ptr<const PlacedObjects> sentPlaced;
    BuiltPtr sentBuilt;

    void tell(WorkerEvent::Kind kind, const std::string& text) {
        if (listener) listener({kind, text});
    }

    Result<void> start() {
        if (pid != 0) return {};
        static std::atomic<int> counter{0};
        const std::string endpoint = "ipc://@mirolux-" + std::to_string(getpid()) + "-" + std::to_string(++counter);
        socket = std::make_unique<zmq::socket_t>(context, zmq::socket_type::pair);
        socket->set(zmq::sockopt::linger, 0);
        try {
            socket->bind(endpoint);
        } catch (const zmq::error_t& e) {
            return fail(std::string("no channel to the worker: ") + e.what(), endpoint, "");
        }
        const std::string path = options.workerPath.empty() ? default_worker_path() : options.workerPath;
        std::vector<std::string> arguments = {path, endpoint};
        if (options.software) arguments.push_back("--software");
        if (options.background && !options.eager) arguments.push_back("--background");
        if (!options.shaderFolder.empty() && !foldersAside) {
            arguments.push_back("--shaders");
            arguments.push_back(options.shaderFolder);
        }
        if (options.memoryLimit) {
            arguments.push_back("--memory-limit");
            arguments.push_back(std::to_string(options.memoryLimit));
        }
        std::vector<char*> argv;
        for (std::string& a : arguments)
            argv.push_back(a.data());
        argv.push_back(nullptr);
        if (const int error = posix_spawn(&pid, path.c_str(), nullptr, nullptr, argv.data(), environ); error != 0) {
            pid = 0;
            return fail(std::string("the worker could not be started: ") + std::strerror(error), path,
                        "Install mirolux-worker beside the program.");
        }
        shownPid = pid;
        doing.clear();
        sentScene.clear();
        sentLights.clear();
        sentPlaced.reset();
        tell(startedBefore ? WorkerEvent::Kind::restarted : WorkerEvent::Kind::started,
             startedBefore ? "worker started again" : "worker started");
        startedBefore = true;
        return {};
    }

    /// How the worker ended, if it has; empty while it runs.
    std::string ended() {
        int status = 0;
        if (pid == 0 || waitpid(pid, &status, WNOHANG) != pid) return {};
        pid = 0;
        if (WIFSIGNALED(status))
            return "was ended by signal " + std::to_string(WTERMSIG(status)) + " (" + strsignal(WTERMSIG(status)) + ")";
        return "ended with code " + std::to_string(WEXITSTATUS(status));
    }

    /// Never throws and never waits for long: it runs in destructors.
    void end(bool kindly) noexcept {
        if (pid != 0 && kindly && ended().empty()) {
            try {
                send_message(*socket, {{"kind", "quit"}}, 200);
                for (int i = 0; pid != 0 && i < 100 && ended().empty(); ++i)
                    usleep(10000);
            } catch (const ReadFailure&) { // it takes no messages: it is ended below
            } catch (const std::exception&) {
            }
        }
        if (pid != 0) {
            kill(pid, SIGKILL);
            waitpid(pid, nullptr, 0);
        }
        pid = 0;
        shownPid = 0;
        socket.reset();
    }

    /// Ends the worker, starts a new one, and returns the Error for the call that was lost.
    tl::unexpected<Error> replace(const std::string& what) {
        end(false);
        std::string remedy = "It was started again; setup and scene are kept.";
        if (!options.shaderFolder.empty() && !foldersAside) {
            foldersAside = true;
            remedy += " The shader folder " + options.shaderFolder + " is set aside until it is chosen again.";
        }
        tell(WorkerEvent::Kind::lost, what);
        if (auto ok = start(); !ok) return tl::unexpected(ok.error());
        return fail(what, "", remedy);
    }

    /// An Error for a worker that is no more; empty while it runs.
    std::optional<tl::unexpected<Error>> gone() {
        const std::string how = ended();
        if (how.empty()) return std::nullopt;
        if (how == "ended with code 127")
            return fail("the worker could not be run", options.workerPath,
                        "Install mirolux-worker beside the program.");
        return replace("the worker " + how + (doing.empty() ? "" : " while " + doing));
    }

    /// A worker that died while idle is found out here and started again, so that nothing is lost.
    Result<void> revive() {
        if (const std::string how = ended(); !how.empty()) {
            end(false);
            tell(WorkerEvent::Kind::lost, "the worker " + how + " while it had nothing to do");
        }
        return start();
    }

    Result<void> send(const Json& message) {
        for (int attempt = 0;; ++attempt) {
            try {
                send_message(*socket, message, 500);
                return {};
            } catch (const ReadFailure& f) { // not taken yet: it may still be starting, or be gone
                if (auto error = gone()) return *error;
                if (attempt * 0.5 > patience)
                    return replace("the worker took no messages for " + number_text(patience) + " s and was ended");
            }
        }
    }

    Result<Json> ask(Json message) {
        if (auto ok = revive(); !ok) return tl::unexpected(ok.error());
        message["serial"] = ++serial;
        try {
            if (auto ok = send(message); !ok) return tl::unexpected(ok.error());
            auto lastSign = Clock::now();
            for (;;) {
                const auto reply = receive_message(*socket, 100);
                if (reply) {
                    lastSign = Clock::now();
                    const JsonCursor root(*reply);
                    const std::string kind = root["kind"].text();
                    if (kind == "alive") doing = root.text("doing", "");
                    if (kind == "alive" || root.whole("serial", 0, ~0ull) != serial) continue;
                    if (kind == "error")
                        return fail(root.text("what", ""), root.text("where", ""), root.text("remedy", ""));
                    return *reply;
                }
                if (auto error = gone()) return *error;
                if (std::chrono::duration<double>(Clock::now() - lastSign).count() > patience)
                    return replace("the worker gave no sign of life for " + number_text(patience) + " s" +
                                   (doing.empty() ? "" : " while " + doing) + " and was ended");
            }
        } catch (const ReadFailure& f) {
            if (auto error = gone()) return *error;
            return replace("the worker's answer could not be read: " + f.what);
        } catch (const zmq::error_t& e) {
            if (auto error = gone()) return *error;
            return replace(std::string("the channel to the worker failed: ") + e.what());
        }
    }
};

WorkerClient::WorkerClient(WorkerOptions options) : impl_(std::make_unique<Impl>()) {
    impl_->options = std::move(options);
    impl_->patience = impl_->options.watchdogSeconds;
}
void WorkerClient::set_watchdog(double seconds) {
    impl_->patience = seconds;
}
WorkerClient::~WorkerClient() {
    impl_->end(true);
}
Result<void> WorkerClient::start() {
    return impl_->start();
}
int WorkerClient::worker_pid() const {
    return impl_->shownPid;
}
void WorkerClient::on_event(std::function<void(const WorkerEvent&)> listener) {
    impl_->listener = std::move(listener);
}

void WorkerClient::use_shader_folder(const std::string& folder) {
    impl_->options.shaderFolder = folder;
    impl_->foldersAside = false;
    impl_->end(true);
}

Result<DeviceInfo> WorkerClient::device() {
    auto reply = impl_->ask({{"kind", "device"}});
    if (!reply) return tl::unexpected(reply.error());
    try {
        return device_from_json(JsonCursor(*reply)["device"]);
    } catch (const ReadFailure& f) {
        return fail("the worker's answer could not be read: " + f.what, f.pointer);
    }
}

Result<std::vector<Workload>> WorkerClient::calibrate(int sweeps) {
    auto reply = impl_->ask({{"kind", "calibrate"}, {"sweeps", sweeps}});
    if (!reply) return tl::unexpected(reply.error());
    try {
        std::vector<Workload> out;
        const JsonCursor list = JsonCursor(*reply).list("workloads");
        for (std::size_t i = 0; i < list.size(); ++i)
            out.push_back(workload_from_json(list.at(i)));
        return out;
    } catch (const ReadFailure& f) {
        return fail("the worker's answer could not be read: " + f.what, f.pointer);
    }
}

Result<FrameRecord> WorkerClient::render(const Scene& scene, const Setup& setup, const View& view,
                                         const RenderOptions& options) {
    if (auto ok = impl_->revive(); !ok) return tl::unexpected(ok.error());
    Json message = {{"kind", "frame"},
                    {"scene", scene.asset->path},
                    {"setup", to_json(setup)},
                    {"view", to_json(view)},
                    {"options", to_json(options)},
                    {"sky", {{"horizon", to_array(scene.sky.horizon)}, {"zenith", to_array(scene.sky.zenith)}}}};
    // The worker keeps the lights it was sent; a new scene or a new worker starts from none.
    const SceneChoice& choice = scene.asset->choice;
    if (choice != SceneChoice{}) message["choice"] = {{"scene", choice.scene}, {"variant", choice.variant}};
    const bool fresh = impl_->sentScene != scene.asset->path || impl_->sentDigest != scene.asset->fileDigest ||
                       impl_->sentChoice != choice;
    if (fresh) { // it begins without any of them
        impl_->sentLights.clear();
        impl_->sentPlaced.reset();
        impl_->sentBuilt.reset();
    }
    const BuiltPtr& built = scene.asset->built;
    if (built != impl_->sentBuilt) message["built"] = built ? to_json(*built) : Json();
    message["digest"] = scene.asset->fileDigest;
    message["fresh"] = fresh;
    message["lights"] = light_patch(impl_->sentLights, scene.lights);
    const auto edits = [](const auto& placed) { return placed ? placed->edits : EditList(); };
    if (scene.placed != impl_->sentPlaced)
        if (Json patch = object_patch(edits(impl_->sentPlaced), edits(scene.placed)); !patch.is_null())
            message["objects"] = std::move(patch);
    Json motions = Json::array();
    for (const Motion& m : scene.motions)
        motions.push_back(to_json(m));
    message["motions"] = motions;
    const auto list = [&](const char* key, const auto& values) {
        if (values.empty()) return;
        message[key] = Json::array();
        for (const auto& v : values)
            message[key].push_back(to_json(v));
    };
    if (scene.blocks && scene.blocks != scene.asset->blocks)
        if (Json changes = blocks::changes(*scene.asset->blocks, *scene.blocks); !changes.is_null())
            message["blocks"] = std::move(changes);
    if (scene.flat && scene.flat != scene.asset->flat)
        if (Json changes = flat::changes(*scene.asset->flat, *scene.flat); !changes.is_null())
            message["flat"] = std::move(changes);
    list("clips", scene.clips);
    list("volumes", scene.volumes);
    list("cheapLights", scene.cheapLights);
    list("probes", scene.probes);
    list("doors", scene.doors);
    list("rooms", scene.drawnRooms);
    message["bakes"] = scene.bakes;
    impl_->sentScene.clear(); // until the answer is here, what the worker knows is unsure
    impl_->sentLights.clear();
    impl_->sentPlaced.reset();
    impl_->sentBuilt.reset();
    auto reply = impl_->ask(message);
    if (!reply) return tl::unexpected(reply.error());
    impl_->sentScene = scene.asset->path;
    impl_->sentDigest = scene.asset->fileDigest;
    impl_->sentChoice = choice;
    impl_->sentLights = scene.lights;
    impl_->sentPlaced = scene.placed;
    impl_->sentBuilt = built;
    return unpack_record(*reply);
}

} // namespace mirolux
