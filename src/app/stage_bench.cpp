#include "app/stage_bench.h"
#include "app/benches.h"
#include "app/choice_row.h"
#include <QCheckBox>
#include <QComboBox>
#include <QHBoxLayout>
#include <QLineEdit>
#include <QPushButton>
#include <QVBoxLayout>

namespace mirolux::app {

StageBench::StageBench(Document& document, Selection& selection, QWidget* parent)
    : QWidget(parent), document_(document), selection_(selection) {
    auto* column = bench_column(this, tr("Scene"));
    column->addWidget(facts_ = quiet_label({}, this));
    piece_ = new QWidget(this);
    auto* inside = new QVBoxLayout(piece_);
    inside->setContentsMargins(0, 0, 0, 0);
    inside->setSpacing(6);
    name_ = new QLineEdit(piece_);
    name_->setObjectName("piece name");
    name_->setToolTip(tr("Its name; Enter keeps it."));
    inside->addWidget(name_);
    inside->addWidget(about_ = quiet_label({}, piece_));
    inside->addWidget(rows_ = new BenchRows(piece_));
    add_rows();
    auto* buttons = new QHBoxLayout;
    buttons->setSpacing(4);
    const auto button = [&](const QString& words, const QString& help) {
        auto* b = new QPushButton(words, this);
        b->setToolTip(help);
        buttons->addWidget(b);
        return b;
    };
    duplicate_ = button(tr("Duplicate"), tr("A copy beside it; walls that go with a sprite go with its copy."));
    erase_ = button(tr("Delete"), tr("Takes it off the stage; undo brings it back."));
    inside->addLayout(buttons);
    column->addWidget(piece_);
    filter_ = new QLineEdit(this);
    filter_->setObjectName("pieces filter");
    filter_->setPlaceholderText(tr("Find a sprite or a wall"));
    filter_->setToolTip(tr("Part of a name or of a layer's."));
    filter_->setClearButtonEnabled(true);
    column->addWidget(filter_);
    list_ = new QListWidget(this);
    list_->setObjectName("pieces");
    list_->setToolTip(
        tr("Sprites by layer, nearest first, then walls. Click one here or in the picture; drag it there."));
    list_->setMinimumHeight(150);
    column->addWidget(list_, 1);
    auto* wall = new QPushButton(tr("New wall"), this);
    wall->setObjectName("new wall");
    wall->setToolTip(tr("A square in the picture's middle that stops light: pull its points where they belong."));
    column->addWidget(wall);
    column->addWidget(new QLabel(tr("Cameras"), this));
    cameras_ = new QListWidget(this);
    cameras_->setObjectName("stage cameras");
    cameras_->setToolTip(tr("Click a camera to look through it."));
    cameras_->setMaximumHeight(74);
    column->addWidget(cameras_);
    auto* rows = new BenchRows(this);
    seconds_ = new NumberField({0, 3600, 0.05, 2, false}, "s", this);
    seconds_->setObjectName("stage seconds");
    seconds_->setToolTip(tr("Scene time: moves lights and turns sprites' cells."));
    rows->add(tr("Scene time"), {seconds_});
    auto* kept = new ChoiceRow({QString()}, this);
    kept->setObjectName("stage setups");
    kept->setAccessibleName(tr("Kept setups"));
    kept->setToolTip(tr("Setups that the project keeps under a name: a click takes one, as one step to undo."));
    rows->add(tr("Kept setups"), {kept}, [this] { return document_.is_open() && !document_.project().setups.empty(); });
    column->addWidget(rows);

    connect(seconds_, &NumberField::scrubbing, this, [this](bool on) { document_.set_interactive(on); });
    connect(seconds_, &NumberField::edited, this, [this](double s) { document_.set_seconds(s); });
    connect(kept, &ChoiceRow::chosen, this, [this](int i) {
        const auto& [name, setup] = document_.project().setups[static_cast<std::size_t>(i)];
        document_.edit(tr("setup %1").arg(QString::fromStdString(name)),
                       [setup = setup](Project& p) { p.setup = setup; });
    });
    connect(cameras_, &QListWidget::itemClicked, this, [this](QListWidgetItem* item) {
        document_.move_camera(document_.project().cameras[static_cast<std::size_t>(cameras_->row(item))]);
        emit document_.settled();
    });
    connect(filter_, &QLineEdit::textChanged, this, [this] {
        listed_.reset();
        fill_list();
    });
    connect(list_, &QListWidget::itemSelectionChanged, this, [this] {
        if (filling_ || list_->selectedItems().isEmpty()) return;
        const QListWidgetItem* item = list_->selectedItems().first();
        selection_.set_piece(
            {static_cast<flat::PieceKind>(item->data(Qt::UserRole).toInt()), item->data(Qt::UserRole + 1).toInt()});
    });
    connect(name_, &QLineEdit::editingFinished, this, [this] {
        const std::string words = name_->text().trimmed().toStdString();
        if (words.empty() || !document_.is_flat()) return;
        if (is(flat::PieceKind::sprite))
            edit_sprite(tr("rename"), [&](flat::Sprite& s) { s.name = words; });
        else
            edit_wall(tr("rename"), [&](flat::Wall& w) { w.name = words; });
    });
    connect(duplicate_, &QPushButton::clicked, this, &StageBench::duplicate_piece);
    connect(erase_, &QPushButton::clicked, this, &StageBench::erase_piece);
    connect(wall, &QPushButton::clicked, this, [this] {
        flat::Piece made;
        const Camera c = document_.project().view.camera;
        document_.edit_stage(tr("new wall"), [&](flat::World& w) {
            made = flat::add_wall(w, glm::dvec2(c.eye), 0.12 * double(c.span));
        });
        selection_.set_piece(made);
    });
    const auto refill = [this, kept, rows] {
        fill();
        if (!document_.is_flat()) return;
        QStringList names;
        int present = -1;
        for (const auto& [name, setup] : document_.project().setups) {
            if (setup == document_.project().setup && present < 0) present = static_cast<int>(names.size());
            names << QString::fromStdString(name);
        }
        if (!names.isEmpty() && names != kept->words()) kept->set_words(names);
        kept->set_current(present);
        rows->show_what_applies();
    };
    connect(&document_, &Document::changed, this, refill);
    connect(&document_, &Document::camera_moved, this,
            [this] { seconds_->set_value(document_.project().view.seconds); });
    connect(&selection_, &Selection::changed, this, [this] { fill(); });
}

void StageBench::duplicate_piece() {
    flat::Piece copy;
    document_.edit_stage(tr("duplicate"), [&](flat::World& w) {
        copy = flat::duplicate(w, selection_.piece(), {8, 8});
    });
    selection_.set_piece(copy);
}

void StageBench::erase_piece() {
    document_.edit_stage(tr("delete"), [&](flat::World& w) { flat::erase(w, selection_.piece()); });
}

NumberField* StageBench::number(const QString& name, const NumberField::Range& range, const QString& unit,
                                const QString& help, double (*get)(const flat::Sprite&),
                                void (*put)(flat::Sprite&, double)) {
    auto* f = new NumberField(range, unit, this);
    f->setObjectName("sprite " + name);
    f->setToolTip(help);
    connect(f, &NumberField::scrubbing, this, [this](bool on) { document_.set_interactive(on); });
    connect(f, &NumberField::edited, this, [this, name, put](double v) {
        edit_sprite(
            name, [&](flat::Sprite& s) { put(s, v); }, document_.interactive() ? "sprite " + name : QString());
    });
    numbers_.push_back({f, get});
    return f;
}

void StageBench::add_rows() {
    const auto sprites = [this] { return is(flat::PieceKind::sprite); };
    const auto walls = [this] { return is(flat::PieceKind::wall); };
    constexpr NumberField::Range place{-1e5, 1e5, 0.5, 1, false};
    rows_->add(tr("Place"),
               {number(
                    tr("x"), place, "", tr("Units to the right, of its middle."),
                    [](const flat::Sprite& s) { return double(s.place.x); },
                    [](flat::Sprite& s, double v) { s.place.x = static_cast<float>(v); }),
                number(
                    tr("y"), place, "", tr("Units up, of its middle."),
                    [](const flat::Sprite& s) { return double(s.place.y); },
                    [](flat::Sprite& s, double v) { s.place.y = static_cast<float>(v); })},
               sprites);
    rows_->add(tr("Turn, scale"),
               {number(
                    tr("turn"), {-180, 180, 0.3, 0, false}, "\u00b0", tr("Counter-clockwise."),
                    [](const flat::Sprite& s) { return double(glm::degrees(s.turn)); },
                    [](flat::Sprite& s, double v) { s.turn = glm::radians(static_cast<float>(v)); }),
                number(
                    tr("scale"), {0.05, 20, 0.01, 2, true}, "", tr("1: a pixel of the sheet is a unit."),
                    [](const flat::Sprite& s) { return double(std::abs(s.scale.x)); },
                    [](flat::Sprite& s, double v) { s.scale *= static_cast<float>(v) / std::abs(s.scale.x); })},
               sprites);
    rows_->add(tr("Cells a second"),
               {number(
                   tr("rate"), {0, 60, 0.05, 1, false}, "", tr("How fast its cells follow each other."),
                   [](const flat::Sprite& s) { return double(s.rate); },
                   [](flat::Sprite& s, double v) { s.rate = static_cast<float>(v); })},
               [this] { return is(flat::PieceKind::sprite) && sprite().cells > 1; });
    rows_->add(tr("Glow"),
               {number(
                   tr("glow"), {0, 20, 0.01, 2, true}, "", tr("Multiplies what its sheet gives off itself."),
                   [](const flat::Sprite& s) { return double(s.glow); },
                   [](flat::Sprite& s, double v) { s.glow = static_cast<float>(v); })},
               [this] {
                   return is(flat::PieceKind::sprite) && document_.is_flat() &&
                          document_.project().flat->sheets[static_cast<std::size_t>(sprite().sheet)].emission >= 0;
               });
    tint_ = new ColorSwatch(2.0, {}, this);
    rows_->add(tr("Tint"), {tint_}, sprites);
    connect(tint_, &ColorSwatch::scrubbing, this, [this](bool on) { document_.set_interactive(on); });
    connect(tint_, &ColorSwatch::edited, this, [this](const glm::vec3& c) {
        edit_sprite(
            tr("tint"), [&](flat::Sprite& s) { s.tint = glm::vec4(c, s.tint.a); },
            document_.interactive() ? "sprite tint" : QString());
    });
    layer_ = new QComboBox(this);
    layer_->setToolTip(tr("The layer that it is drawn with, and moves with."));
    rows_->add(tr("Layer"), {layer_}, sprites);
    connect(layer_, &QComboBox::activated, this,
            [this](int i) { edit_sprite(tr("layer"), [i](flat::Sprite& s) { s.layer = i; }); });
    const auto box = [&](const QString& words, const QString& help) {
        auto* b = new QCheckBox(words, this);
        b->setToolTip(help);
        return b;
    };
    hidden_ = box(tr("hidden"), tr("It is not drawn, and its walls stop no light."));
    receives_ = box(tr("shadows fall on it"), tr("Off: it is lit though walls stand between, its own among them. Where "
                                                 "any sprite is so, lights cost their whole box."));
    rows_->add({}, {hidden_, receives_}, sprites);
    connect(hidden_, &QCheckBox::toggled, this,
            [this](bool on) { edit_sprite(tr("hidden"), [on](flat::Sprite& s) { s.hidden = on; }); });
    connect(receives_, &QCheckBox::toggled, this,
            [this](bool on) { edit_sprite(tr("shadows on it"), [on](flat::Sprite& s) { s.receives = on; }); });
    casts_ = box(tr("stops light"), tr("Off: light passes as if it were not there."));
    rows_->add({}, {casts_}, walls);
    connect(casts_, &QCheckBox::toggled, this,
            [this](bool on) { edit_wall(tr("stops light"), [on](flat::Wall& w) { w.casts = on; }); });
    auto* height = new NumberField({0, 1000, 0.05, 0, true}, "", this);
    height->setObjectName("wall height");
    height->setToolTip(
        tr("Units; light from higher up passes over it (shadows by quads and marching). 0: without end."));
    rows_->add(tr("Height"), {height}, [this] {
        return is(flat::PieceKind::wall) && document_.is_flat() && document_.project().flat->seen == flat::Seen::above;
    });
    height_ = height;
    connect(height, &NumberField::scrubbing, this, [this](bool on) { document_.set_interactive(on); });
    connect(height, &NumberField::edited, this, [this](double v) {
        edit_wall(
            tr("height"), [v](flat::Wall& w) { w.height = v < 0.5 ? 0.0f : static_cast<float>(v); },
            document_.interactive() ? "wall height" : QString());
    });
    const auto matter = [&](const QString& words, const char* name, double most, const QString& help,
                            glm::vec3 flat::Wall::*part) {
        auto* swatch = new ColorSwatch(most, {}, this);
        swatch->setObjectName(name);
        swatch->setToolTip(help);
        rows_->add(words, {swatch}, walls);
        connect(swatch, &ColorSwatch::scrubbing, this, [this](bool on) { document_.set_interactive(on); });
        connect(swatch, &ColorSwatch::edited, this, [this, words, part](const glm::vec3& c) {
            edit_wall(
                words, [&](flat::Wall& w) { w.*part = c; }, document_.interactive() ? "wall " + words : QString());
        });
        return swatch;
    };
    emits_ = matter(tr("Shines"), "wall shines", 4.0,
                    tr("What its border sends by itself, where light travels (cascades, truth)."), &flat::Wall::emits);
    reflects_ =
        matter(tr("Throws back"), "wall throws back", 1.0,
               tr("The share of light that it throws back to all sides, where light travels (cascades, truth)."),
               &flat::Wall::reflects);
}

const flat::Sprite& StageBench::sprite() const {
    static const flat::Sprite none;
    const flat::Sprite* s = document_.is_flat() ? document_.project().flat->sprite(selection_.piece().id) : nullptr;
    return s && is(flat::PieceKind::sprite) ? *s : none;
}
const flat::Wall& StageBench::wall() const {
    static const flat::Wall none;
    const flat::Wall* w = document_.is_flat() ? document_.project().flat->wall(selection_.piece().id) : nullptr;
    return w && is(flat::PieceKind::wall) ? *w : none;
}

void StageBench::edit_sprite(const QString& what, const std::function<void(flat::Sprite&)>& change,
                             const QString& merge) {
    const int id = selection_.piece().id;
    document_.edit_stage(
        QString::fromStdString(sprite().name) + ": " + what,
        [&](flat::World& w) {
            for (flat::Sprite& s : w.sprites)
                if (s.id == id) change(s);
        },
        merge);
}

void StageBench::edit_wall(const QString& what, const std::function<void(flat::Wall&)>& change, const QString& merge) {
    const int id = selection_.piece().id;
    document_.edit_stage(
        QString::fromStdString(wall().name) + ": " + what,
        [&](flat::World& w) {
            for (flat::Wall& x : w.walls)
                if (x.id == id) change(x);
        },
        merge);
}

void StageBench::fill() {
    if (!document_.is_flat()) return;
    const flat::World& w = *document_.project().flat;
    facts_->setText(tr("%1, seen from %2\n%3 layers, %4 sprites, %5 walls, %6 lights")
                        .arg(QString::fromStdString(document_.project().scenePath).section('/', -1),
                             w.seen == flat::Seen::side ? tr("the side") : tr("above"))
                        .arg(w.layers.size())
                        .arg(w.sprites.size())
                        .arg(w.walls.size())
                        .arg(document_.project().lights.size()));
    const auto& cameras = document_.project().cameras;
    if (cameras_->count() != static_cast<int>(cameras.size())) {
        cameras_->clear();
        for (const Camera& c : cameras)
            cameras_->addItem(QString::fromStdString(c.name));
    }
    seconds_->set_value(document_.project().view.seconds);
    fill_list();
    fill_piece();
}

void StageBench::fill_list() {
    if (!document_.is_flat()) return;
    const flat::WorldPtr& world = document_.project().flat;
    filling_ = true;
    if (listed_ != world) {
        list_->clear();
        const auto wanted = [this](const std::string& name, const std::string& of) {
            const QString part = filter_->text();
            return part.isEmpty() || QString::fromStdString(name).contains(part, Qt::CaseInsensitive) ||
                   QString::fromStdString(of).contains(part, Qt::CaseInsensitive);
        };
        const auto add = [&](const std::string& name, const QString& of, const flat::Piece& piece, bool faint) {
            auto* item = new QListWidgetItem(QString::fromStdString(name) + "   " + of, list_);
            item->setData(Qt::UserRole, static_cast<int>(piece.kind));
            item->setData(Qt::UserRole + 1, piece.id);
            if (faint) item->setForeground(palette().brush(QPalette::Disabled, QPalette::Text));
        };
        for (auto layer = world->layers.rbegin(); layer != world->layers.rend(); ++layer)
            for (const flat::Sprite& s : world->sprites)
                if (&world->layers[static_cast<std::size_t>(s.layer)] == &*layer && wanted(s.name, layer->name))
                    add(s.name, QString::fromStdString(layer->name), {flat::PieceKind::sprite, s.id}, s.hidden);
        for (const flat::Wall& x : world->walls)
            if (wanted(x.name, "wall"))
                add(x.name, tr("wall, %1 points").arg(x.outline.points.size()), {flat::PieceKind::wall, x.id},
                    !x.casts);
        listed_ = world;
    }
    for (int i = 0; i < list_->count(); ++i) {
        QListWidgetItem* item = list_->item(i);
        const bool chosen =
            selection_.piece() == flat::Piece{static_cast<flat::PieceKind>(item->data(Qt::UserRole).toInt()),
                                              item->data(Qt::UserRole + 1).toInt()};
        if (item->isSelected() != chosen) item->setSelected(chosen);
        if (chosen) list_->scrollToItem(item);
    }
    filling_ = false;
}

void StageBench::fill_piece() {
    piece_->setVisible(!selection_.piece().none());
    if (selection_.piece().none()) return;
    const flat::World& world = *document_.project().flat;
    const QSignalBlocker a(hidden_), b(receives_), c(casts_);
    if (!name_->hasFocus()) name_->setText(QString::fromStdString(flat::name_of(world, selection_.piece())));
    if (is(flat::PieceKind::sprite)) {
        const flat::Sprite& s = sprite();
        about_->setText(tr("Sprite of %1. Drag it in the picture; its corner sizes it, the knob turns it.")
                            .arg(QString::fromStdString(world.sheets[static_cast<std::size_t>(s.sheet)].name)));
        for (const Number& n : numbers_)
            n.field->set_value(n.get(s));
        const flat::Sprite* begun = document_.asset()->flat->sprite(s.id);
        for (const Number& n : numbers_)
            n.field->set_default(begun ? std::optional(n.get(*begun)) : std::nullopt);
        tint_->set_color(glm::vec3(s.tint));
        if (layer_->count() != static_cast<int>(world.layers.size())) {
            layer_->clear();
            for (const flat::Layer& l : world.layers)
                layer_->addItem(QString::fromStdString(l.name));
        }
        layer_->setCurrentIndex(s.layer);
        hidden_->setChecked(s.hidden);
        receives_->setChecked(s.receives);
    } else {
        const flat::Wall& x = wall();
        const flat::Sprite* on = world.sprite(x.sprite);
        about_->setText(
            tr("Wall of %1 points%2. Pull its points in the picture; a small knob makes a new one, a point on "
               "its neighbour goes.")
                .arg(x.outline.points.size())
                .arg(on ? tr(", goes with %1").arg(QString::fromStdString(on->name)) : QString()));
        casts_->setChecked(x.casts);
        emits_->set_color(x.emits);
        height_->set_value(x.height);
        reflects_->set_color(x.reflects);
    }
    rows_->show_what_applies();
}

} // namespace mirolux::app
