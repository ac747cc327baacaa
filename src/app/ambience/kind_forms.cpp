// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/ambience/kind_forms.h"

#include "project/ambience_points.h"

#include <set>

namespace stone
{

AreaForm::AreaForm(Session& session, Playback& playback) : EmitterForm(session, playback)
{
    box_->addWidget(shape("area", [](Emitter& e) -> Shape& { return e.area.shape; }));
    auto* words =
        theme::explained(tr("Drag the corners on the Plan. Heard from the nearest part outside, from all round inside."));
    box_->addWidget(words);
    row({labelled(tr("Opens up within"),
                  number({"areaNear", "m", tr("opens up within %1 m"),
                          tr("So far outside it begins to surround; at the border it does")},
                         {0, 1000, 1, 0.5}, [](Emitter& e) -> double& { return e.placement.nearRange_m; })),
         part(tr("Glides at most"), &Emitter::area, &Area::glide_m_s,
              {"areaGlide", "m/s", tr("glides at %1 m/s"), tr("How fast the place that it sounds from may move")}, {1, 1}),
         zone("areaZone", tr("no zone"))});
    row({flag("areaWidens", tr("as wide as it looks"),
              tr("Its width grows with the angle that it covers; otherwise it stays a point"),
              [](Emitter& e) -> bool& { return e.area.widens; }),
         flag("areaShares", tr("shares a voice"),
              tr("All areas of the same sound that do are one voice, from the nearest of them"),
              [](Emitter& e) -> bool& { return e.area.sharesVoice; })});
}

BedForm::BedForm(Session& session, Playback& playback) : EmitterForm(session, playback), words_(theme::caption({}))
{
    std::vector<std::pair<QString, QString>> points;
    for (const BedPoint& point : bedPoints()) {
        points.emplace_back(tr(point.name), tr(point.words));
    }
    box_->addWidget(startingPoints("bedPoints", points, [](Emitter& e, std::size_t index) {
        const BedPoint& point = bedPoints()[index];
        e.placement.imageInWorld = point.imageInWorld;
        e.level_db = point.level_db;
        Falloff falloff;
        falloff.name = point.name;
        falloff.lanes.front().formula = point.outside;
        e.falloff = std::move(falloff);
    }));
    row({labelled(tr("Where"), zone("bedZone", tr("everywhere"))),
         labelled(tr("Its image is fixed to"), choice(
                                                   "bedImage", tr("image"), {tr("the head"), tr("the world")},
                                                   [](const Emitter& e) { return e.placement.imageInWorld ? 1 : 0; },
                                                   [](Emitter& e, int index) { e.placement.imageInWorld = index == 1; })),
         labelled(tr("Front of the image"),
                  number({"bedHeading", QStringLiteral("°"), tr("faces %1°"), tr("Compass heading of its front, in the world")},
                         {-360, 360, 0, 5}, [](Emitter& e) -> double& { return e.heading_deg; }))});
    allow(findChild<QWidget*>("bedHeading"),
          [](const Emitter& e) { return e.placement.imageInWorld ? QString() : tr("its image is fixed to the head"); });
    row({labelled(tr("Rooms"), choice(
                                   "bedRooms", tr("rooms"), {tr("do not answer it"), tr("answer it")},
                                   [](const Emitter& e) { return e.placement.roomsAnswer ? 1 : 0; },
                                   [](Emitter& e, int index) { e.placement.roomsAnswer = index == 1; }))});
    findChild<QWidget*>("bedRooms")
        ->setToolTip(tr("Whether it goes into the reverb of the room in which it is heard. A recording of a place mostly has "
                        "its own already"));
    words_->setWordWrap(true);
    box_->addWidget(words_);
}

void BedForm::refresh()
{
    EmitterForm::refresh();
    if (const Emitter* bed = thing()) {
        const Zone* zone = session_.level().zones.find(bed->zone);
        words_->setText(zone != nullptr
                            ? tr("Surrounds inside %1; outside it comes from there, by its falloff. Draw and nest zones on the "
                                 "Plan.")
                                  .arg(QString::fromStdString(zone->name))
                            : tr("Heard everywhere alike. Choose a zone to keep it to a place."));
    }
}

StepsForm::StepsForm(Session& session, Playback& playback)
    : EmitterForm(session, playback), under_(theme::caption({})),
      stride_(new CellTable("stepStride", tr("Stride by pace"),
                            {{tr("at m/s"), tr("The pace; between two of them the stride goes over evenly"), 90},
                             {tr("a step is m"), tr("From one step to the next"), 110}})),
      list_(new QWidget)
{
    auto* words =
        theme::explained(tr("What the walking character's feet sound like on each surface of the level. The sound above is for "
                            "all others."));
    box_->addWidget(words);
    box_->addWidget(under_);
    box_->addWidget(list_);
    head(tr("How long a step is"));
    stride_->setFixedHeight(112);
    box_->addWidget(stride_);
    connect(stride_, &CellTable::typed, this, &StepsForm::typeStride);
}

void StepsForm::showStride(const Stepping& stepping)
{
    std::vector<QStringList> rows;
    for (const CurvePoint& point : stepping.stride) {
        rows.push_back({CellTable::shortNumber(point.x), CellTable::shortNumber(point.y)});
    }
    stride_->showRows(rows);
}

/// Paces stay in their order; what is no number, or no step, is put back.
void StepsForm::typeStride(int row, int column, const QString& text)
{
    constexpr double shortest_m = 0.05;
    const std::optional<double> number = CellTable::numberIn(text);
    Curve stride = thing()->stepping.stride;
    const auto at = static_cast<std::size_t>(row);
    if (number) {
        (column == 0 ? stride[at].x : stride[at].y) = *number;
    }
    const bool ordered = std::is_sorted(stride.begin(), stride.end(), [](const auto& a, const auto& b) { return a.x < b.x; });
    if (!number || !ordered || stride[at].x < 0.0 || stride[at].y < shortest_m) {
        refresh();
        return;
    }
    edit(tr("stride at %1 m/s: %2 m").arg(stride[at].x).arg(stride[at].y), {}, [&](Emitter& e) { e.stepping.stride = stride; });
}

void StepsForm::rebuild(const std::vector<std::string>& surfaces)
{
    shown_ = surfaces;
    sounds_.clear();
    levels_.clear();
    delete list_->layout();
    qDeleteAll(list_->findChildren<QWidget*>(Qt::FindDirectChildrenOnly));
    auto* grid = new QGridLayout(list_);
    grid->setContentsMargins(0, 0, 0, 0);
    grid->setVerticalSpacing(2);
    int line = 0;
    for (const std::string& surface : surfaces) {
        auto* box = new QComboBox;
        box->setObjectName("step " + QString::fromStdString(surface));
        box->setAccessibleName(tr("Steps on %1").arg(QString::fromStdString(surface)));
        box->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Fixed);
        connect(box, &QComboBox::activated, this, [this, box, surface](int index) {
            const std::string chosen = box->itemData(index).toString().toStdString();
            edit(tr("steps on %1").arg(QString::fromStdString(surface)), {}, [&](Emitter& e) {
                auto& all = e.stepping.surfaces;
                const auto known =
                    std::find_if(all.begin(), all.end(), [&](const SurfaceSound& s) { return s.surface == surface; });
                if (chosen.empty()) {
                    std::erase_if(all, [&](const SurfaceSound& s) { return s.surface == surface; });
                } else if (known != all.end()) {
                    known->sound = {chosen};
                } else {
                    all.push_back({surface, {chosen}, 0.0});
                }
            });
        });
        auto* level = new NumberField("dB", ranges::level_db, 1, 1.0);
        level->setObjectName("stepLevel " + QString::fromStdString(surface));
        level->setAccessibleName(tr("Level of steps on %1").arg(QString::fromStdString(surface)));
        level->setToolTip(tr("Of the steps on this surface, beside the emitter's own level"));
        connect(level, &NumberField::valueEdited, this, [this, surface](double db) {
            edit(tr("steps on %1 at %2 dB").arg(QString::fromStdString(surface)).arg(db), "stepLevel", [&](Emitter& e) {
                for (SurfaceSound& known : e.stepping.surfaces) {
                    known.level_db = known.surface == surface ? db : known.level_db;
                }
            });
        });
        connect(level, &NumberField::editingFinished, this, [this] { session_.endGesture(); });
        grid->addWidget(new QLabel(QString::fromStdString(surface)), line, 0);
        grid->addWidget(box, line, 1);
        grid->addWidget(level, line++, 2);
        sounds_.push_back(box);
        levels_.push_back(level);
    }
    grid->setColumnStretch(1, 1);
}

void StepsForm::refresh()
{
    EmitterForm::refresh();
    const Emitter* steps = thing();
    if (steps == nullptr || steps->kind != EmitterKind::steps) {
        return;
    }
    std::set<std::string> names;
    if (const Mesh* mesh = session_.loadedLevel().mesh()) {
        names.insert(mesh->materials.begin(), mesh->materials.end());
    }
    for (const SurfaceSound& surface : steps->stepping.surfaces) {
        names.insert(surface.surface);
    }
    names.erase("");
    const std::vector<std::string> surfaces(names.begin(), names.end());
    if (surfaces != shown_) {
        rebuild(surfaces);
    }
    for (std::size_t i = 0; i < sounds_.size(); ++i) {
        const QSignalBlocker quiet(sounds_[i]);
        sounds_[i]->clear();
        sounds_[i]->addItem(tr("as all others"), QString());
        for (const auto& sound : session_.project().sounds) {
            sounds_[i]->addItem(QString::fromStdString(sound->name), QString::fromStdString(sound->id.text));
        }
        levels_[i]->setEnabled(false);
        levels_[i]->present(0.0);
        for (const SurfaceSound& surface : steps->stepping.surfaces) {
            if (surface.surface == shown_[i]) {
                levels_[i]->setEnabled(true);
                levels_[i]->present(surface.level_db);
                sounds_[i]->setCurrentIndex(sounds_[i]->findData(QString::fromStdString(surface.sound.text)));
            }
        }
    }
    showStride(steps->stepping);
    const WorldState* world = playback_.world();
    const std::string under = world != nullptr ? playback_.hearing().world().surfaceName(world->surface) : std::string();
    under_->setText(under.empty() ? tr("The surface under the character is named here while you listen.")
                                  : tr("Under the character now: %1").arg(QString::fromStdString(under)));
}

} // namespace stone
