#include "app/object_marks.h"
#include "app/bench_rows.h"
#include "app/choice_row.h"
#include "core/bake/baked_light.h"

namespace mirolux::app {

static constexpr float details[] = {0, 0.25f, 0.5f, 1, 2, 4};

ObjectMarks::ObjectMarks(Document& document, Selection& selection, BenchRows& rows,
                         std::function<void(const QString&, const Mark&)> change, QWidget* parent)
    : QObject(parent), document_(document), selection_(selection) {
    const auto add = [&](const QString& title, const QString& name, const QStringList& words, const QString& help,
                         const QString& label, std::function<int(const ObjectEdit&)> of,
                         std::function<void(ObjectEdit&, int)> set, const std::function<bool()>& applies) {
        auto* choices = new ChoiceRow(words, parent);
        choices->setObjectName(name);
        choices->setToolTip(help);
        connect(choices, &ChoiceRow::chosen, this,
                [change, label, set](int i) { change(label, [set, i](ObjectEdit& e) { set(e, i); }); });
        rows.add(title, {choices}, applies);
        marks_.push_back({choices, std::move(of)});
    };
    const auto ofScene = [this] { // a proxy only casts
        return selection_.objects().empty() || !document_.is_proxy(selection_.objects().back());
    };
    add(
        tr("Casts"), "casts", {tr("casts"), tr("from its front"), tr("does not"), tr("unseen"), tr("by proxy")},
        tr("Whether it stands in the way of lamps: drawn and casting from both sides; from where its material shows "
           "alone; drawn with lamps shining through it; not drawn (and not charged) and casting alone; or drawn while "
           "boxes cast in its place. Truth has shadows."),
        tr("shadows"), [](const ObjectEdit& e) { return static_cast<int>(e.casts); },
        [](ObjectEdit& e, int i) { e.casts = static_cast<Casting>(i); }, ofScene);
    add(
        tr("Stands"), "stands", {tr("as found"), tr("still"), tr("moving")},
        tr("Whether it is taken to stand still by what is computed beforehand: unless it was placed by hand, always "
           "where it stands now, or never. What a clip moves moves."),
        tr("stands"), [](const ObjectEdit& e) { return static_cast<int>(e.standing); },
        [](ObjectEdit& e, int i) { e.standing = static_cast<Standing>(i); }, ofScene);
    add(
        tr("Map detail"), "map detail",
        {tr("none"), QString("\u00bc"), QString("\u00bd"), QString("1"), QString("2"), QString("4")},
        tr("Texels a metre that it has in light maps, masks and occlusion, times those that are set; none: it has no "
           "place there and is lit as what moves is. Bake again afterwards."),
        tr("map detail"),
        [](const ObjectEdit& e) {
            const auto* it = std::find(std::begin(details), std::end(details), e.mapDetail);
            return it == std::end(details) ? -1 : static_cast<int>(it - std::begin(details));
        },
        [](ObjectEdit& e, int i) { e.mapDetail = details[i]; },
        [this, ofScene] {
            const Setup& setup = document_.project().setup;
            return ofScene() && (uses_light_map(setup) || uses_masks(setup) || uses_baked_occlusion(setup));
        });
    add(
        tr("Shadows on it"), "receives", {tr("receives"), tr("does not")},
        tr("Whether shadows fall on it; without, lamps reach it through everything."), tr("shadows"),
        [](const ObjectEdit& e) { return e.receives ? 0 : 1; }, [](ObjectEdit& e, int i) { e.receives = i == 0; },
        ofScene);
}

void ObjectMarks::fill() {
    constexpr int other = -2; // none was looked at yet
    const std::vector<int>& objects = selection_.objects();
    std::vector<int> chosen(marks_.size(), other);
    for (const int o : objects) {
        const ObjectEdit e = document_.object_edit(o);
        for (std::size_t k = 0; k < marks_.size(); ++k) {
            const int i = e.proxy ? -1 : marks_[k].of(e);
            chosen[k] = chosen[k] == other || chosen[k] == i ? i : -1;
        }
    }
    for (std::size_t k = 0; k < marks_.size(); ++k)
        marks_[k].choices->set_current(std::max(chosen[k], -1));
}

QStringList ObjectMarks::words_of(const ObjectEdit& e) {
    QStringList out;
    if (e.standing == Standing::still) out << tr("marked as still");
    if (e.standing == Standing::moving) out << tr("marked as moving");
    if (e.casts == Casting::no) out << tr("casts no shadow");
    if (e.casts == Casting::unseen) out << tr("unseen, casts shadows");
    if (e.casts == Casting::front) out << tr("casts from its front only");
    if (e.casts == Casting::proxied) out << tr("proxies cast for it");
    if (!e.receives) out << tr("receives no shadow");
    if (e.mapDetail == 0)
        out << tr("in no light map");
    else if (e.mapDetail != 1)
        out << tr("%1 times the texels a metre").arg(double(e.mapDetail), 0, 'g', 3);
    return out;
}

} // namespace mirolux::app
