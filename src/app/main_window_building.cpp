#include "app/main_window.h"
#include "app/objects_bench.h"
#include "app/shape_tray.h"
#include "core/base/text.h"
#include <QFileDialog>
#include <QFileInfo>
#include <QLabel>

// Building: shapes and models that are put into the scene, copies, and what is taken out again.
namespace mirolux::app {

void MainWindow::connect_building() {
    auto* tray = findChild<ShapeTray*>();
    connect(tray, &ShapeTray::wanted, this, [this](int tile) {
        if (tile == ShapeTray::model_tile)
            choose_model();
        else
            take_up(all_shapes[tile]);
    });
    connect(tray, &ShapeTray::laid_down, this, &MainWindow::lay_down);
    connect(viewport_, &Viewport::thing_put, this, &MainWindow::put_thing);
    connect(&document_, &Document::opened, this, &MainWindow::lay_down);
    connect(&document_, &Document::changed, tray, [this, tray] {
        tray->setVisible(document_.is_solid());
        findChild<QLabel*>("build heading")->setVisible(document_.is_solid());
    });
    connect(shadowAudit_.get(), &ShadowAuditEngine::priced, this,
            [this](const std::shared_ptr<const ObjectPrice>& price) { show_price(*price); });
    connect(shadowAudit_.get(), &ShadowAuditEngine::rested, this, [this] { objectsBench_->end_price(); });
    connect(selection_.get(), &Selection::changed, this, [this] {
        if (shadowAudit_->busy() && shadowAudit_->kind() == ShadowAuditEngine::Kind::price) shadowAudit_->stop();
        objectsBench_->show_price({}, false);
    });
    const auto forget_price = [this] { // it was that of another state, or of another view
        if (!auditing()) objectsBench_->show_price({}, false);
    };
    connect(&document_, &Document::changed, this, forget_price);
    connect(&document_, &Document::camera_moved, this, forget_price);
    connect(&document_, &Document::rebuilt, this, [this](const std::shared_ptr<const SceneAsset>& before) {
        for (const std::string& w : document_.warnings()) // what could not be built is told once
            if (std::find(before->warnings.begin(), before->warnings.end(), w) == before->warnings.end())
                notice_ = QString::fromStdString(w);
    });
}

void MainWindow::take_up(ShapeKind kind) {
    if (!document_.is_open() || !document_.is_solid()) return;
    Make make;
    make.shape = usual_shape(kind);
    Viewport::BuildWish wish;
    wish.name = QString::fromUtf8(word(kind));
    wish.edges = creases(make_shape(sketched(*make.shape)), glm::radians(1.0f));
    wish.box = make_shape(*make.shape).bounds;
    take_up(std::move(make), std::move(wish), static_cast<int>(kind));
}

void MainWindow::take_up(Make make, Viewport::BuildWish wish, int tile) {
    set_station("Scene");
    taken_ = std::make_shared<const Make>(std::move(make));
    takenName_ = wish.name;
    viewport_->build(std::move(wish));
    findChild<ShapeTray*>()->set_taken(tile);
    notice_ = tr("Click a surface: the %1 stands there. Shift places several, Esc none.").arg(takenName_);
    refresh_status();
}

void MainWindow::lay_down() {
    if (!taken_) return;
    taken_.reset();
    viewport_->build(std::nullopt);
    findChild<ShapeTray*>()->set_taken(std::nullopt);
    notice_.clear();
    refresh_status();
}

void MainWindow::choose_model() {
    const QString path =
        QFileDialog::getOpenFileName(this, tr("A model to place in the scene"), {}, tr("glTF 2.0 (*.gltf *.glb)"));
    if (!path.isEmpty()) take_up_model(path);
}

void MainWindow::take_up_model(const QString& path) {
    if (!document_.is_open() || !document_.is_solid()) return;
    auto read = import_gltf(path.toStdString(), {.decodeImages = false});
    if (!read) return show_error(read.error());
    const SceneAsset& model = **read;
    if (model.objects.empty())
        return show_error({"it shows nothing that could be placed", path.toStdString(), "Choose a file with meshes."});
    Make make;
    make.model = std::filesystem::absolute(path.toStdString()).lexically_normal().string();
    Viewport::BuildWish wish;
    wish.name = QFileInfo(path).completeBaseName();
    wish.box = model.bounds;
    const glm::vec3 low = model.bounds.low, high = model.bounds.high;
    for (int k = 0; k < 8; ++k)
        for (const int bit : {1, 2, 4})
            if (!(k & bit)) {
                const auto corner = [&](int c) {
                    return glm::vec3(c & 1 ? high.x : low.x, c & 2 ? high.y : low.y, c & 4 ? high.z : low.z);
                };
                wish.edges.emplace_back(corner(k), corner(k | bit));
            }
    // A model of another unit of length is made to fit; its size can be given by number afterwards.
    const glm::vec3 size = model.bounds.size();
    if (const float longest = std::max({size.x, size.y, size.z}); longest > 50 || longest < 0.02f)
        wish.scale = std::clamp(2.0f / longest, 1e-3f, 1e3f);
    take_up(std::move(make), std::move(wish), ShapeTray::model_tile);
}

void MainWindow::put_thing(const ObjectEdit& place, bool more) {
    if (!taken_) return;
    const BuiltPtr built = document_.project().built;
    if (built && built->things.size() >= most_things)
        return show_error({"there are " + std::to_string(most_things) + " things in this scene already", "",
                           "Delete some, or build with fewer."});
    std::vector<BuiltThing> things =
        named_things(*document_.asset(), built ? *built : Built{}, takenName_.toStdString(), taken_, 1);
    if (!more) lay_down(); // before what building has to say stands in the status
    // Parts of a model are placed alike.
    const std::string id = things.front().id, name = things.front().name;
    BuiltPtr with = built;
    add_things(with, things);
    std::vector<ObjectEdit> edits;
    const auto asset = built_on(document_.asset(), with);
    for (const int o : objects_of(*asset, id)) {
        edits.push_back(place);
        edits.back().id = asset->objectNames[static_cast<std::size_t>(o)].id;
        edits.back().name = asset->objectNames[static_cast<std::size_t>(o)].name;
    }
    selection_->set_objects(
        document_.add_things(tr("place %1").arg(QString::fromStdString(name)), std::move(things), edits));
}

void MainWindow::duplicate_objects() {
    ArrayStep beside;
    beside.count.x = 2;
    Box box;
    const Scene scene = document_.scene();
    for (const int o : selection_->objects())
        box.add(scene.objects()[static_cast<std::size_t>(o)].bounds);
    beside.step = {std::max(0.1f, 1.1f * box.size().x), 0, 0};
    Copies copies = arrayed(*document_.asset(), document_.project().objects, selection_->objects(), beside);
    if (copies.things.empty()) return;
    const QString label = copies.things.size() == 1
                              ? tr("duplicate %1").arg(QString::fromStdString(copies.things.front().name))
                              : tr("duplicate %L1 things").arg(copies.things.size());
    selection_->set_objects(document_.add_things(label, std::move(copies.things), copies.edits));
}

std::set<std::string> MainWindow::selected_things() const {
    std::set<std::string> out;
    if (document_.is_open())
        for (const int o : selection_->objects())
            if (const BuiltThing* t = thing_of(*document_.asset(), o)) out.insert(t->id);
    return out;
}

/// Built things go; objects of the file stay: those can be hidden.
void MainWindow::delete_objects() {
    const std::set<std::string> things = selected_things();
    if (!things.empty())
        return document_.remove_things(
            things.size() == 1
                ? tr("delete %1").arg(QString::fromStdString(document_.object_name(selection_->objects().back()).name))
                : tr("delete %L1 things").arg(things.size()),
            things);
}

/// Measured in turn with and without what is selected; again: not after all.
void MainWindow::price_objects() {
    if (shadowAudit_->busy() && shadowAudit_->kind() == ShadowAuditEngine::Kind::price) return shadowAudit_->stop();
    std::vector<int> objects;
    for (const int o : selection_->objects())
        if (!document_.is_proxy(o)) objects.push_back(o);
    if (objects.empty() || bridge_->measuring()) return;
    ShadowQuestion q = shadow_question();
    objectsBench_->show_price(tr("measuring in pairs: 0 %"), true);
    shadowAudit_->price(std::move(q), std::move(objects));
}

void MainWindow::show_price(const ObjectPrice& price) {
    const Comparison& c = price.times.frame;
    const double frame = price.times.a.frame.median;
    const auto number = [](double v) { return QString::fromStdString(number_text(v, 3)); };
    QString text =
        c.verdict == Verdict::notShown
            ? tr("No cost shows in %1 rounds: under %2 ms of %3 ms.")
                  .arg(c.rounds)
                  .arg(number(frame * std::max(std::abs(1 - c.low), std::abs(1 - c.high))), number(frame))
            : tr("<b>%1 ms</b> of %2 ms (%3 to %4 ms, %5 rounds in turn).")
                  .arg(number(price.ms()), number(frame), number(frame * (1 - c.high)), number(frame * (1 - c.low)))
                  .arg(c.rounds);
    QStringList passes;
    std::vector<const PassComparison*> shown;
    for (const PassComparison& p : price.times.passes)
        if (p.comparison.verdict != Verdict::notShown) shown.push_back(&p);
    for (std::size_t i = 0; i < shown.size() && i < 3; ++i)
        passes << tr("%1 %2 %")
                      .arg(QString::fromStdString(shown[i]->name))
                      .arg(100 * (1 - shown[i]->comparison.ratio), 0, 'f', 0);
    if (!passes.isEmpty()) text += tr(" It takes of: %1.").arg(passes.join(", "));
    text += tr(" Without it %1 % of the picture differs by more than 1 %.").arg(number(100 * price.picture.shareOver));
    objectsBench_->show_price(text, false);
}

} // namespace mirolux::app
