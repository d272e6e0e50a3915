#include "client/messages.h"
#include "core/blocks/world_edits.h"
#include "core/flat/flat_import.h"
#include "core/flat/world_json.h"
#include "core/io/file.h"
#include "gpu/frame/session.h"
#include <chrono>
#include <csignal>
#include <future>
#include <mutex>
#include <sched.h>
#include <spdlog/sinks/stdout_sinks.h>
#include <spdlog/spdlog.h>
#include <sys/prctl.h>
#include <thread>
#include <unistd.h>

// Renders what it is asked over its socket, and dies with the program that started it.
using namespace mirolux;

namespace {

/// The socket, shared by the thread that renders and the one that sends signs of life: a lock is a full fence, which is
/// what ZeroMQ asks for when a socket changes threads.
class Channel {
public:
    explicit Channel(const std::string& endpoint) : socket_(context_, zmq::socket_type::pair) {
        socket_.set(zmq::sockopt::linger, 0);
        socket_.connect(endpoint);
    }
    std::optional<Json> receive() {
        const std::lock_guard lock(mutex_);
        return receive_message(socket_, 1000);
    }
    void send(const Json& message) {
        const std::lock_guard lock(mutex_);
        send_message(socket_, message);
    }

private:
    std::mutex mutex_;
    zmq::context_t context_{1};
    zmq::socket_t socket_;
};

/// Sends a sign of life a few times a second while the rendering thread's beats go on; where they stop, it is silent. A
/// thread of its own, so that nothing of it stands in timed work.
class Pulse {
public:
    Pulse(Channel& channel, gpu::Vitals& vitals) : channel_(channel), vitals_(vitals), thread_([this] { run(); }) {}
    ~Pulse() {
        stop_ = true;
        thread_.join();
    }
    /// Between requests there is nothing to tell.
    void busy(bool on) { busy_ = on; }

private:
    void run() {
        std::uint64_t reported = 0;
        for (; !stop_; std::this_thread::sleep_for(std::chrono::milliseconds(150))) {
            const std::uint64_t beats = vitals_.beats();
            if (!busy_ || beats == reported) continue;
            reported = beats;
            try {
                channel_.send({{"kind", "alive"}, {"doing", vitals_.doing()}});
            } catch (const std::exception&) {
                return; // the other end is gone; the rendering thread will find out
            } catch (const ReadFailure&) {
                return;
            }
        }
    }
    Channel& channel_;
    gpu::Vitals& vitals_;
    std::atomic<bool> busy_{false}, stop_{false};
    std::thread thread_;
};

struct Arguments {
    std::string endpoint;
    gpu::SessionOptions session;
    bool background = false;
};

class Worker {
public:
    explicit Worker(Arguments arguments) : arguments_(std::move(arguments)), channel_(arguments_.endpoint) {}

    int run() {
        const pid_t parent = getppid();
        for (;;) {
            const auto message = channel_.receive();
            if (!message) {
                if (getppid() != parent) return 0;
                continue;
            }
            const JsonCursor root(*message);
            if (root["kind"].text() == "quit") return 0;
            memory_.reset(); // the last answer has been read
            Json reply = answer(root);
            reply["serial"] = root.whole("serial", 0, ~0ull);
            channel_.send(reply);
        }
    }

private:
    /// The reply to any request: whatever goes wrong is said in it.
    Json answer(const JsonCursor& root) {
        Result<Json> reply = fail("");
        try {
            const std::string kind = root["kind"].text();
            if (pulse_) pulse_->busy(true);
            if (kind == "device")
                reply = device();
            else if (kind == "calibrate")
                reply = calibrate(static_cast<int>(root.whole("sweeps", 5, 1000)));
            else if (kind == "frame")
                reply = frame(root);
            else
                reply = fail("the worker does not know the request " + kind);
        } catch (const ReadFailure& f) {
            reply =
                fail("a request could not be read: " + f.what, f.pointer, "Worker and program must be of one build.");
        } catch (const std::bad_alloc&) {
            reply = fail("the worker ran out of memory", "", "Choose a smaller picture or a smaller scene.");
        } catch (const std::exception& e) {
            reply = fail(std::string("the worker failed: ") + e.what(), "",
                         "This is a fault of Mirolux; the setup is kept.");
        }
        if (pulse_) pulse_->busy(false);
        if (reply) return std::move(*reply);
        spdlog::warn("{}", to_text(reply.error()));
        return {{"kind", "error"},
                {"what", reply.error().what},
                {"where", reply.error().where},
                {"remedy", reply.error().remedy}};
    }

    Result<gpu::Session*> session() {
        if (!session_) {
            auto made = gpu::Session::create(arguments_.session);
            if (!made) return tl::unexpected(made.error());
            session_ = std::move(*made);
            pulse_ = std::make_unique<Pulse>(channel_, session_->vitals());
            pulse_->busy(true);
        }
        return session_.get();
    }

    Result<Json> device() {
        auto s = session();
        if (!s) return tl::unexpected(s.error());
        auto info = (*s)->device();
        if (!info) return tl::unexpected(info.error());
        return Json{{"kind", "device"}, {"device", to_json(*info)}};
    }

    Result<Json> calibrate(int sweeps) {
        auto s = session();
        if (!s) return tl::unexpected(s.error());
        auto done = (*s)->calibrate(sweeps);
        if (!done) return tl::unexpected(done.error());
        Json list = Json::array();
        for (const Workload& w : *done)
            list.push_back(to_json(w));
        return Json{{"kind", "calibrate"}, {"workloads", list}};
    }

    /// Reads the scene when another one is asked for, or another state of its file.
    Result<void> load(const std::string& path, std::uint64_t digest, const SceneChoice& choice) {
        if (scene_.asset && path == path_ && digest == digest_ && choice == choice_) return {};
        auto loading = std::async(std::launch::async, [&] { return import_scene(path, {.choice = choice}); });
        auto s = session(); // the context is made while the scene is read
        if (!s) return tl::unexpected(s.error());
        (*s)->vitals().enter("reading " + path);
        while (loading.wait_for(std::chrono::milliseconds(100)) != std::future_status::ready)
            (*s)->vitals().beat();
        auto asset = loading.get();
        if (!asset) return tl::unexpected(asset.error());
        if (digest != 0 && (*asset)->fileDigest != digest)
            return fail("the scene file has changed since it was opened", path, "Reload the scene.");
        scene_ = {*asset, {}, {}, {}};
        scene_.flat = scene_.asset->flat;
        scene_.blocks = scene_.asset->blocks;
        flatChanges_ = {};
        blockChanges_ = {};
        path_ = path;
        digest_ = digest;
        choice_ = choice;
        return {};
    }

    Result<Json> frame(const JsonCursor& root) {
        const std::uint64_t digest = root.whole("digest", 0, ~0ull);
        SceneChoice choice;
        if (root.has("choice")) choice = {root["choice"]["scene"].text(), root["choice"]["variant"].text()};
        const bool another = !scene_.asset || root["scene"].text() != path_ || digest != digest_ || choice != choice_;
        if (another && !root.flag("fresh", false))
            return fail("the worker was sent changes of a scene that it does not hold", root["scene"].text(),
                        "Ask again.");
        if (auto ok = load(root["scene"].text(), digest, choice); !ok) return tl::unexpected(ok.error());
        if (root.flag("fresh", false)) {
            scene_.lights.clear();
            scene_.placed.reset();
            scene_.asset = built_on(scene_.asset, nullptr);
        }
        const bool rebuilt = root.has("built");
        if (rebuilt)
            scene_.asset =
                built_on(scene_.asset, root["built"].json().is_null() ? nullptr : built_from_json(root["built"]));
        apply_light_patch(scene_.lights, root["lights"]);
        if (rebuilt || root.has("objects")) {
            std::vector<ObjectEdit> edits = scene_.placed ? scene_.placed->edits.list() : std::vector<ObjectEdit>();
            if (root.has("objects")) apply_object_patch(edits, root["objects"]);
            scene_.placed = place_objects(*scene_.asset, std::move(edits), rebuilt ? nullptr : scene_.placed.get());
        }
        scene_.motions.clear();
        const JsonCursor motions = root.list("motions");
        for (std::size_t i = 0; i < motions.size(); ++i)
            scene_.motions.push_back(motion_from_json(motions.at(i)));
        scene_.clips.clear();
        const JsonCursor clips = root.list("clips");
        for (std::size_t i = 0; i < clips.size(); ++i)
            scene_.clips.push_back(clip_play_from_json(clips.at(i)));
        scene_.volumes.clear();
        const JsonCursor volumes = root.list("volumes");
        for (std::size_t i = 0; i < volumes.size(); ++i)
            scene_.volumes.push_back(air_volume_from_json(volumes.at(i)));
        scene_.cheapLights.clear();
        const JsonCursor cheap = root.list("cheapLights");
        for (std::size_t i = 0; i < cheap.size(); ++i)
            scene_.cheapLights.push_back(cheap_light_from_json(cheap.at(i)));
        scene_.probes.clear();
        const JsonCursor probes = root.list("probes");
        for (std::size_t i = 0; i < probes.size(); ++i)
            scene_.probes.push_back(probe_from_json(probes.at(i)));
        scene_.doors.clear();
        const JsonCursor doors = root.list("doors");
        for (std::size_t i = 0; i < doors.size(); ++i)
            scene_.doors.push_back(door_from_json(doors.at(i)));
        scene_.drawnRooms.clear();
        const JsonCursor rooms = root.list("rooms");
        for (std::size_t i = 0; i < rooms.size(); ++i)
            scene_.drawnRooms.push_back(drawn_room_from_json(rooms.at(i)));
        scene_.bakes = root.text("bakes", "");
        if (scene_.asset->flat) take_flat(root);
        if (scene_.asset->blocks) take_blocks(root);
        scene_.sky = {root["sky"]["horizon"].vector<3>(), root["sky"]["zenith"].vector<3>()};
        auto s = session();
        if (!s) return tl::unexpected(s.error());
        auto record = (*s)->render(scene_, setup_from_json(root["setup"]), view_from_json(root["view"]),
                                   options_from_json(root["options"]));
        if (!record) return tl::unexpected(record.error());
        auto packed = pack_record(*record);
        if (!packed) return tl::unexpected(packed.error());
        if (packed->memory) memory_.emplace(std::move(*packed->memory));
        return std::move(packed->message);
    }

    /// The stage with the changes that the request names; the same value as before while those are the same.
    void take_flat(const JsonCursor& root) {
        const Json changes = root.has("flat") ? root["flat"].json() : Json();
        if (changes == flatChanges_) return;
        scene_.flat = changes.is_null()
                          ? scene_.asset->flat
                          : std::make_shared<const flat::World>(flat::changed(*scene_.asset->flat, root["flat"]));
        flatChanges_ = changes;
    }

    /// The same of a Blocks stage.
    void take_blocks(const JsonCursor& root) {
        const Json changes = root.has("blocks") ? root["blocks"].json() : Json();
        if (changes == blockChanges_) return;
        scene_.blocks =
            changes.is_null()
                ? scene_.asset->blocks
                : std::make_shared<const blocks::World>(blocks::changed(*scene_.asset->blocks, root["blocks"]));
        blockChanges_ = changes;
    }

    Arguments arguments_;
    Channel channel_;
    std::unique_ptr<gpu::Session> session_;
    std::unique_ptr<Pulse> pulse_;       // ends before what it watches
    std::optional<SharedMemory> memory_; // of the last answer
    Scene scene_;
    Json flatChanges_;  // that made scene_.flat of the file's
    Json blockChanges_; // that made scene_.blocks of the file's
    std::string path_;
    SceneChoice choice_;       // of its scenes and variants
    std::uint64_t digest_ = 0; // of the scene file as it was asked for; 0: whatever it held
};

Arguments arguments_of(int argc, char** argv) {
    Arguments out;
    for (int i = 1; i < argc; ++i) {
        const std::string a = argv[i];
        if (a == "--software")
            out.session.software = true;
        else if (a == "--background")
            out.background = true;
        else if (a == "--shaders" && i + 1 < argc)
            out.session.shaderFolder = argv[++i];
        else if (a == "--memory-limit" && i + 1 < argc)
            out.session.memoryLimit = std::strtoull(argv[++i], nullptr, 10);
        else
            out.endpoint = a;
    }
    return out;
}

} // namespace

int main(int argc, char** argv) {
    prctl(PR_SET_PDEATHSIG, SIGKILL);
    std::signal(SIGINT, SIG_IGN); // of a terminal: the program that started it decides
    spdlog::set_default_logger(spdlog::stderr_logger_mt("worker"));
    spdlog::set_pattern("mirolux-worker: %v");
    const Arguments arguments = arguments_of(argc, argv);
    if (arguments.endpoint.empty()) {
        std::fprintf(stderr, "mirolux-worker is started by mirolux and mirolux-cli; it is not run by hand.\n");
        return 2;
    }
    if (arguments.background) { // before any thread is made: they take it over
        const sched_param none{};
        if (sched_setscheduler(0, SCHED_IDLE, &none) != 0) (void)nice(19);
    }
    try {
        return Worker(arguments).run();
    } catch (const ReadFailure& f) {
        spdlog::error("{}", f.what);
    } catch (const std::exception& e) {
        spdlog::error("{}", e.what());
    }
    return 4;
}
