#include "client/messages.h"
#include "core/scene/gltf_import.h"
#include "gpu/frame/session.h"
#include <chrono>
#include <csignal>
#include <future>
#include <spdlog/sinks/stdout_sinks.h>
#include <spdlog/spdlog.h>
#include <sys/prctl.h>
#include <unistd.h>

// Renders what it is asked over its socket, and dies with the program that started it.
using namespace mirolux;

namespace {

class Worker {
public:
    Worker(const std::string& endpoint, bool software, std::string shaderFolder)
        : software_(software), folder_(std::move(shaderFolder)), socket_(context_, zmq::socket_type::pair) {
        socket_.set(zmq::sockopt::linger, 0);
        socket_.connect(endpoint);
    }

    int run() {
        const pid_t parent = getppid();
        for (;;) {
            const auto message = receive_message(socket_, 1000);
            if (!message) {
                if (getppid() != parent) return 0;
                continue;
            }
            const JsonCursor root(*message);
            const std::string kind = root["kind"].text();
            if (kind == "quit") return 0;
            const std::uint64_t serial = root.whole("serial", 0, ~0ull);
            Result<Json> reply = fail("the worker does not know the request " + kind);
            try {
                if (kind == "device")
                    reply = device();
                else if (kind == "calibrate")
                    reply = calibrate(static_cast<int>(root.whole("sweeps", 5, 1000)));
                else if (kind == "frame")
                    reply = frame(root, serial);
            } catch (const ReadFailure& f) {
                reply = fail("a request could not be read: " + f.what, f.pointer,
                             "Worker and program must be of one build.");
            }
            if (!reply) {
                spdlog::warn("{}", to_text(reply.error()));
                reply = Json{{"kind", "error"},
                             {"what", reply.error().what},
                             {"where", reply.error().where},
                             {"remedy", reply.error().remedy}};
            }
            (*reply)["serial"] = serial;
            send_message(socket_, *reply);
        }
    }

private:
    Result<gpu::Session*> session() {
        if (!session_) {
            auto made = gpu::Session::create(software_, folder_);
            if (!made) return tl::unexpected(made.error());
            session_ = std::move(*made);
            session_->on_alive([this] { alive(); });
        }
        return session_.get();
    }

    /// A sign of life, at most five a second; sent from the rendering thread itself, so that a hang there is silence.
    void alive() {
        const auto now = std::chrono::steady_clock::now();
        if (now - lastSign_ < std::chrono::milliseconds(200)) return;
        lastSign_ = now;
        send_message(socket_, {{"kind", "alive"}});
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

    Result<void> load(const std::string& path) {
        std::error_code ec;
        const auto time = std::filesystem::last_write_time(path, ec);
        if (scene_.asset && path == path_ && time == time_) return {};
        auto loading = std::async(std::launch::async, [&] { return import_gltf(path); });
        // The context is made while the scene is read.
        auto s = session();
        while (loading.wait_for(std::chrono::milliseconds(100)) != std::future_status::ready)
            alive();
        auto asset = loading.get();
        if (!s) return tl::unexpected(s.error());
        if (!asset) return tl::unexpected(asset.error());
        scene_ = {*asset, {}, {}, {}};
        path_ = path;
        time_ = time;
        return {};
    }

    Result<Json> frame(const JsonCursor& root, std::uint64_t serial) {
        if (auto ok = load(root["scene"].text()); !ok) return tl::unexpected(ok.error());
        if (root.flag("fresh", false)) scene_.lights.clear();
        apply_light_patch(scene_.lights, root["lights"]);
        scene_.motions.clear();
        const JsonCursor motions = root.list("motions");
        for (std::size_t i = 0; i < motions.size(); ++i)
            scene_.motions.push_back(motion_from_json(motions.at(i)));
        scene_.sky = {root["sky"]["horizon"].vector<3>(), root["sky"]["zenith"].vector<3>()};
        auto s = session();
        if (!s) return tl::unexpected(s.error());
        auto record = (*s)->render(scene_, setup_from_json(root["setup"]), view_from_json(root["view"]),
                                   options_from_json(root["options"]));
        if (!record) return tl::unexpected(record.error());
        return pack_record(*record, "/mirolux-" + std::to_string(getpid()) + "-" + std::to_string(serial));
    }

    bool software_;
    std::string folder_;
    zmq::context_t context_{1};
    zmq::socket_t socket_;
    std::unique_ptr<gpu::Session> session_;
    std::chrono::steady_clock::time_point lastSign_{};
    Scene scene_;
    std::string path_;
    std::filesystem::file_time_type time_{};
};

} // namespace

int main(int argc, char** argv) {
    prctl(PR_SET_PDEATHSIG, SIGKILL);
    spdlog::set_default_logger(spdlog::stderr_logger_mt("worker"));
    spdlog::set_pattern("mirolux-worker: %v");
    std::string endpoint, folder;
    bool software = false;
    for (int i = 1; i < argc; ++i) {
        const std::string a = argv[i];
        if (a == "--software")
            software = true;
        else if (a == "--shaders" && i + 1 < argc)
            folder = argv[++i];
        else
            endpoint = a;
    }
    if (endpoint.empty()) {
        std::fprintf(stderr, "mirolux-worker is started by mirolux and mirolux-cli; it is not run by hand.\n");
        return 2;
    }
    try {
        return Worker(endpoint, software, folder).run();
    } catch (const ReadFailure& f) {
        spdlog::error("{}", f.what);
    } catch (const std::exception& e) {
        spdlog::error("{}", e.what());
    }
    return 4;
}
