// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/rooms/room_page.h"

#include "app/session/work_pool.h"
#include "app/widgets/still_place.h"

#include "analysis/decay.h"

#include <QFileDialog>
#include <QGridLayout>
#include <QHBoxLayout>
#include <QtConcurrent>

#include <cmath>

namespace stone
{

RoomPage::RoomPage(Session& session, Playback& playback, QWidget* parent)
    : ThingForm(session, parent), playback_(playback), shape_(new ShapeFields("room")), points_(new QComboBox),
      graph_(new DecayGraph), file_(new QPushButton), surveyed_(new QLabel),
      take_(new QPushButton(tr("Take what it suggests"))), heard_(new QLabel)
{
    setObjectName("roomPage");
    auto* box = new QVBoxLayout(this);
    box->setContentsMargins(14, 12, 14, 8);
    box->setSpacing(7);
    auto* head = new QHBoxLayout;
    auto* name = words("roomName", tr("Name"), [](Room& r) -> std::string& { return r.name; });
    name->setFont(theme::text(12, QFont::Bold));
    head->addWidget(name, 1);
    head->addWidget(flag("roomOn", tr("answers"),
                         tr("Switched off it has no late field; sound still finds its ways through it"),
                         [](Room& r) -> bool& { return r.reverb.on; }));
    box->addLayout(head);
    auto* what =
        theme::explained(tr("Room: a space with a sound of its own. While it answers, what sounds in it rings on. Openings "
                            "(Add › Opening) let it into the next. F9 hears everything without rooms."));
    box->addWidget(what);
    box->addWidget(makePlace());
    box->addWidget(theme::heading(tr("How it answers")));
    box->addWidget(makeReverb());
    box->addWidget(theme::heading(tr("What the level suggests")));
    surveyed_->setObjectName("roomSurvey");
    surveyed_->setWordWrap(true);
    box->addWidget(surveyed_);
    take_->setObjectName("takeSuggested");
    take_->setToolTip(tr("Sets the RT60 of each band to Eyring's, the dashed line"));
    box->addWidget(take_, 0, Qt::AlignLeft);
    box->addWidget(theme::heading(tr("At your ears, now")));
    heard_->setObjectName("roomHeard");
    heard_->setWordWrap(true);
    box->addWidget(new StillPlace(heard_));
    box->addStretch();
    connect(take_, &QPushButton::clicked, this, [this] {
        if (survey_) {
            edit(tr("RT60 as the level suggests"), {}, [&](Room& r) {
                for (std::size_t band = 0; band < r.reverb.rt60_s.size(); ++band) {
                    r.reverb.rt60_s[band] = std::clamp(std::round(survey_->eyring_s[band] * 100.0) / 100.0, 0.05, 30.0);
                }
            });
        }
    });
    connect(&watcher_, &QFutureWatcherBase::finished, this, [this] {
        survey_ = watcher_.result();
        tellSurvey();
    });
    connect(&session_, &Session::levelChanged, this, [this] {
        if (isVisible()) {
            refresh();
        }
    });
}

QWidget* RoomPage::makePlace()
{
    auto* page = new QWidget;
    auto* grid = new QGridLayout(page);
    grid->setContentsMargins(0, 0, 0, 0);
    grid->setHorizontalSpacing(6);
    grid->setVerticalSpacing(3);
    static const char* axes[] = {"East", "North", "Height"};
    static const char* names[] = {"roomEast", "roomNorth", "roomUp"};
    for (int axis = 0; axis < 3; ++axis) {
        const QString label = tr(axes[axis]);
        grid->addWidget(labelled(label, number({names[axis], "m", label.toLower() + " %1 m", {}}, {-1e6, 1e6, 2, 0.1},
                                               [axis](Room& r) -> double& { return r.at[axis]; })),
                        0, axis);
        grid->setColumnStretch(axis, 1);
    }
    grid->addWidget(labelled(tr("Turned"), number({"roomHeading", QStringLiteral("°"), tr("turned to %1°"), {}},
                                                  {-360, 360, 0, 5}, [](Room& r) -> double& { return r.heading_deg; })),
                    1, 0);
    auto* draw = new QPushButton(tr("Draw outline"));
    draw->setObjectName("drawRoom");
    draw->setToolTip(tr("Click corner after corner on the Plan; Enter or a double click ends it"));
    connect(draw, &QPushButton::clicked, this, &RoomPage::drawWanted);
    grid->addWidget(draw, 1, 1, 1, 2, Qt::AlignBottom);
    grid->addWidget(shape_, 2, 0, 1, 3);
    connect(shape_, &ShapeFields::edited, this, [this](const Shape& shape, const QString& words, const QString& gesture) {
        edit(tr("shape %1").arg(words), gesture, [&](Room& r) { r.shape = shape; });
    });
    connect(shape_, &ShapeFields::gestureEnded, this, [this] { session_.endGesture(); });
    connect(shape_, &ShapeFields::fitWanted, this, &RoomPage::fitWanted);
    return page;
}

QWidget* RoomPage::makeReverb()
{
    auto* page = new QWidget;
    auto* grid = new QGridLayout(page);
    grid->setContentsMargins(0, 0, 0, 0);
    grid->setHorizontalSpacing(6);
    grid->setVerticalSpacing(3);
    auto* tail = choice(
        "reverbTail", tr("Late field"),
        {tr("Late field by its decay"), tr("Late field from a file"), tr("Only echoes, as outdoors")},
        [](const Room& r) { return static_cast<int>(r.reverb.tail); },
        [](Room& r, int index) { r.reverb.tail = static_cast<Tail>(index); });
    tail->setToolTip(
        tr("A decay that is worked out, an impulse response, or none: then the level's own walls throw single echoes back"));
    grid->addWidget(tail, 0, 0, 1, 3);
    grid->addWidget(theme::explained(tr("Late field: the ringing on from all sides, after the first echoes.")), 6, 0, 1, 3);
    file_->setObjectName("reverbFile");
    file_->setToolTip(tr("An impulse response as a WAV file. Its RT60 is measured and put into the graph; the room's volume "
                         "and that say how loud it is"));
    connect(file_, &QPushButton::clicked, this, &RoomPage::chooseResponse);
    shows_.push_back([this](const Room& r) {
        const QString name = QString::fromStdString(std::filesystem::path(r.reverb.response).filename().string());
        file_->setText(name.isEmpty() ? tr("Choose an impulse response…") : name);
    });
    showWhen(file_, [](const Room& r) { return r.reverb.tail == Tail::response; });
    grid->addWidget(file_, 1, 0, 1, 3);
    points_->setObjectName("reverbPoint");
    points_->setAccessibleName(tr("Start from"));
    points_->addItem(tr("Start from a kind of space…"));
    for (const ReverbPoint& point : reverbPoints()) {
        points_->addItem(tr(point.name));
        points_->setItemData(points_->count() - 1, tr(point.reason), Qt::ToolTipRole);
    }
    connect(points_, &QComboBox::activated, this, [this](int index) {
        if (index > 0) {
            const ReverbPoint& point = reverbPoints()[static_cast<std::size_t>(index - 1)];
            edit(tr("like a %1").arg(tr(point.name).toLower()), "reverbPoint", [&](Room& r) {
                r.reverb.rt60_s = point.reverb.rt60_s;
                r.reverb.preDelay_ms = point.reverb.preDelay_ms;
            });
        }
    });
    // What is like one of them shows which: so the keys go from one to the next.
    shows_.push_back([this](const Room& room) {
        const auto& points = reverbPoints();
        const auto like = std::find_if(points.begin(), points.end(), [&](const ReverbPoint& point) {
            return point.reverb.rt60_s == room.reverb.rt60_s && point.reverb.preDelay_ms == room.reverb.preDelay_ms;
        });
        points_->setCurrentIndex(like != points.end() ? static_cast<int>(like - points.begin()) + 1 : 0);
    });
    showWhen(points_, [](const Room& r) { return r.reverb.tail == Tail::network; });
    grid->addWidget(points_, 2, 0, 1, 3);
    showWhen(graph_, [](const Room& r) { return r.reverb.tail != Tail::none; });
    grid->addWidget(graph_, 3, 0, 1, 3);
    connect(graph_, &DecayGraph::edited, this, [this](std::size_t band, double rt60_s) {
        const QString hertz =
            octaveBands_hz[band] < 1000 ? QString::number(octaveBands_hz[band]) : tr("%1k").arg(octaveBands_hz[band] / 1000);
        edit(tr("RT60 %1 s at %2 Hz").arg(rt60_s).arg(hertz), QString("rt60 %1").arg(band),
             [&](Room& r) { r.reverb.rt60_s[band] = rt60_s; });
    });
    connect(graph_, &DecayGraph::editEnded, this, [this] { session_.endGesture(); });
    const auto late = [](const Room& r) { return r.reverb.tail == Tail::none ? tr("the room has no late field") : QString(); };
    const auto field = [&](const NumberWords& words, const NumberRange& range, const QString& label, int row, int column,
                           std::function<double&(Room&)> member) {
        NumberField* made = number(words, range, std::move(member));
        grid->addWidget(labelled(label, made), row, column);
        return made;
    };
    field(
        {"reverbEarly", "dB", tr("echoes %1 dB"), tr("Single reflections: over what its walls give by themselves; -96: none")},
        {-96, 24, 1, 0.5}, tr("Echoes"), 4, 0, [](Room& r) -> double& { return r.reverb.early_db; });
    allow(field({"reverbLevel", "dB", tr("late field %1 dB"), tr("Over what volume and RT60 give by themselves; -96: none")},
                {-96, 24, 1, 0.5}, tr("Late field"), 4, 1, [](Room& r) -> double& { return r.reverb.late_db; }),
          late);
    allow(field({"reverbBegins", "ms", tr("late field after %1 ms"),
                 tr("Until the late field begins: the larger the room, the later")},
                {0, 250, 0, 5}, tr("Begins after"), 4, 2, [](Room& r) -> double& { return r.reverb.preDelay_ms; }),
          late);
    allow(field({"reverbWidth", "%", tr("width %1 %"), tr("0: from ahead, 100: from all round")}, {0, 100, 0, 5, 100},
                tr("Width"), 5, 0, [](Room& r) -> double& { return r.reverb.width; }),
          late);
    auto* answer = new QPushButton(tr("What it answers…"));
    answer->setObjectName("roomDecay");
    answer->setToolTip(
        tr("Its impulse response at your ears, how that dies away, and as a WAV file (F12). F2 claps your hands there"));
    connect(answer, &QPushButton::clicked, this, &RoomPage::decayWanted);
    grid->addWidget(answer, 5, 1, 1, 2, Qt::AlignBottom);
    for (int column = 0; column < 3; ++column) {
        grid->setColumnStretch(column, 1);
    }
    return page;
}

void RoomPage::edit(const QString& what, const QString& gesture, const std::function<void(Room&)>& change)
{
    session_.editThing<Room>(what, gesture, change);
}

void RoomPage::refresh()
{
    ThingForm::refresh();
    const Room* room = thing();
    if (room == nullptr) {
        return;
    }
    shape_->present(room->shape, session_.solidNodes());
    survey();
    graph_->present(room->reverb.rt60_s, survey_ ? std::optional<BandValues>(survey_->eyring_s) : std::nullopt);
    follow();
}

void RoomPage::chooseResponse()
{
    const QString picked =
        QFileDialog::getOpenFileName(this, tr("Impulse response"), QString::fromStdString(session_.folder().string()),
                                     tr("Sound files (*.wav *.flac *.ogg)"));
    if (picked.isEmpty()) {
        return;
    }
    QString file;
    try {
        file = session_.takeIn(picked, "responses");
    } catch (const FileError& error) {
        emit session_.failed(error.what());
        return;
    }
    const SoundBank::Entry entry = session_.bank().load(session_.resolve(file.toStdString()), false, Keeping::decoded);
    if (!entry.buffer) {
        emit session_.failed(
            tr("%1 cannot be used as an impulse response: %2").arg(picked, QString::fromStdString(entry.error)));
        return;
    }
    if (entry.buffer->seconds() > RoomResponse::longest_s) {
        emit session_.failed(tr("%1 is %2 s long: the room answers with its first %3 s.")
                                 .arg(QFileInfo(picked).fileName())
                                 .arg(entry.buffer->seconds(), 0, 'f', 1)
                                 .arg(RoomResponse::longest_s));
    }
    const DecayReport report = analyseDecay(entry.buffer->channels.front(), 1, entry.buffer->rate);
    edit(tr("impulse response %1").arg(QFileInfo(picked).fileName()), {}, [&](Room& r) {
        r.reverb.response = file.toStdString();
        for (std::size_t band = 0; band < report.bands.size(); ++band) {
            if (const auto& measured = report.bands[band].t20_s) {
                r.reverb.rt60_s[band] = std::clamp(std::round(*measured * 100.0) / 100.0, 0.05, 30.0);
            }
        }
    });
}

/// On a worker, when the room has another shape or the level other walls.
void RoomPage::survey()
{
    const Asked asked{session_.level().rooms.share(thing()->id), session_.loadedLevel().ground, session_.project().surfaces};
    const bool same = asked_.room && asked.room && asked.room->shape == asked_.room->shape &&
                      asked.room->at == asked_.room->at && asked.room->heading_deg == asked_.room->heading_deg &&
                      asked.ground == asked_.ground && asked.surfaces == asked_.surfaces;
    asked_ = asked;
    if (same) {
        return;
    }
    survey_.reset();
    tellSurvey();
    if (asked.ground) {
        watcher_.setFuture(
            QtConcurrent::run(&workPool(), [project = session_.document(), room = asked.room, ground = asked.ground] {
                return surveyRoom(*project, *room, *ground);
            }));
    }
}

void RoomPage::tellSurvey()
{
    take_->setEnabled(survey_.has_value());
    if (!survey_) {
        surveyed_->setText(asked_.ground ? tr("Rays find no walls round it.") : tr("There is no geometry to judge by."));
    } else {
        QStringList parts;
        for (std::size_t i = 0; i < std::min<std::size_t>(survey_->parts.size(), 4); ++i) {
            parts << tr("%1 m² %2")
                         .arg(survey_->parts[i].area_m2, 0, 'f', 0)
                         .arg(QString::fromStdString(survey_->parts[i].material).toLower());
        }
        surveyed_->setText(
            tr("%1 m³ within %2 m²: %3; %4 % of it open. At 1 kHz that rings for %5 s by Sabine, %6 s by Eyring (dashed).")
                .arg(survey_->volume_m3, 0, 'f', 0)
                .arg(survey_->surface_m2, 0, 'f', 0)
                .arg(parts.join(", "))
                .arg(100.0 * survey_->open_share, 0, 'f', 0)
                .arg(survey_->sabine_s[4], 0, 'f', 2)
                .arg(survey_->eyring_s[4], 0, 'f', 2));
    }
    if (const Room* room = thing()) {
        graph_->present(room->reverb.rt60_s, survey_ ? std::optional<BandValues>(survey_->eyring_s) : std::nullopt);
    }
}

void RoomPage::follow()
{
    if (thing() == nullptr) {
        return;
    }
    const auto& rooms = session_.level().rooms;
    for (const RoomHeard& heard : playback_.roomsHeard()) {
        if (heard.room < rooms.size() && rooms[heard.room]->id == thing()->id) {
            heard_->setText(tr("%1. %2 % of its late field comes from all round, %3 % through openings.")
                                .arg(heard.level_db > -199.0 ? tr("%1 dB").arg(theme::decibels(heard.level_db))
                                                             : tr("Nothing sounds in it"))
                                .arg(100.0 * heard.surround, 0, 'f', 0)
                                .arg(100.0 * heard.window, 0, 'f', heard.window < 0.05 ? 2 : 0));
            return;
        }
    }
    heard_->setText(tr("Nothing of it is heard here."));
}

} // namespace stone
