// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/lists/earshot_panel.h"

#include "app/lists/family_panel.h"
#include "app/lists/sound_library.h"
#include "app/session/take_desk.h"
#include "app/theme/theme.h"
#include "hearing/model.h"
#include "hearing/reasons.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QVBoxLayout>

#include <algorithm>
#include <cmath>
#include <map>

namespace stone
{

namespace
{

/// Lists change four times a second: often enough to follow, seldom enough to read.
constexpr qint64 refresh_ms = 250;
/// Before the id of a zone in a row's key.
const QString zonePrefix = QStringLiteral("zone:");
const QString plantPrefix = QStringLiteral("plant:");
const QString roomPrefix = QStringLiteral("room:");
const QString openingPrefix = QStringLiteral("opening:");
const QString gaveWayPrefix = QStringLiteral("gaveWay:");

/// Levels as bars: -60 dB is empty, 0 dB full.
double barOf(double db)
{
    return std::isfinite(db) ? std::clamp((db + 60.0) / 60.0, 0.02, 1.0) : 0.0;
}

QString whyNot(const HearingModel& model, const Heard& heard, const Emitter& emitter, const TimeSpan& when)
{
    if (const std::string reason = silencedBy(model, heard); !reason.empty()) {
        return QString::fromStdString(reason);
    }
    if (emitter.muted) {
        return QObject::tr("muted by hand"); // too far away to be asked
    }
    if (!model.world().simple(heard.index) && std::isinf(heard.start.began_s)) {
        return emitter.kind == EmitterKind::sprinkle ? QObject::tr("nothing falls just now")
               : emitter.kind == EmitterKind::steps  ? QObject::tr("nobody walks")
               : emitter.kind == EmitterKind::pulse  ? QObject::tr("nothing is near that it tells of")
                                                     : QObject::tr("waits for its start");
    }
    const TimeSpan sounds = model.sounds(heard.index);
    if (model.world().simple(heard.index) && sounds.from_s > when.to_s) {
        return QObject::tr("starts at %1").arg(theme::clock(sounds.from_s));
    }
    if (model.world().simple(heard.index) && sounds.to_s <= when.from_s) {
        return QObject::tr("is over; R starts everything again");
    }
    const double beyond = heard.bearing.distance_m - model.reach_m(heard.index);
    if (beyond > 0.0) {
        return QObject::tr("needs %1 closer").arg(theme::metres(std::max(beyond, 0.1)));
    }
    return QObject::tr("too quiet from here");
}

} // namespace

QString whereFrom(const Heard& heard, EmitterKind kind)
{
    if (heard.opened >= 1.0 || (kind == EmitterKind::area && heard.bearing.distance_m <= 0.0)) {
        return QObject::tr("around you");
    }
    static const char* sides[] = {"ahead",  "ahead right", "right", "behind right",
                                  "behind", "behind left", "left",  "ahead left"};
    const auto eighth = static_cast<std::size_t>(std::lround((heard.bearing.azimuth_deg + 360.0) / 45.0)) % 8;
    QString side = QObject::tr(sides[eighth]);
    if (heard.bearing.elevation_deg > 55.0) {
        side = QObject::tr("above");
    } else if (heard.bearing.elevation_deg < -55.0) {
        side = QObject::tr("below");
    }
    return theme::metres(heard.bearing.distance_m) + ", " + side;
}

EarshotPanel::EarshotPanel(Session& session, Playback& playback, QWidget* parent)
    : QWidget(parent), session_(session), playback_(playback), tabs_(new QTabBar), pages_(new QStackedWidget),
      heard_(new RowList), all_(new RowList), sounds_(new SoundLibrary(session, playback)), filter_(new QLineEdit),
      findings_(new QPushButton)
{
    heard_->setObjectName("inEarshot");
    all_->setObjectName("everything");
    heard_->setAccessibleName(tr("In earshot"));

    tabs_->addTab(tr("In earshot"));
    tabs_->addTab(tr("All"));
    tabs_->addTab(tr("Sounds"));
    tabs_->addTab(tr("Families"));
    tabs_->setDrawBase(false);
    tabs_->setExpanding(false);
    tabs_->setUsesScrollButtons(false);
    tabs_->setObjectName("listTabs");

    auto* everything = new QWidget;
    auto* everythingBox = new QVBoxLayout(everything);
    everythingBox->setContentsMargins(8, 6, 8, 0);
    filter_->setPlaceholderText(tr("Search by name"));
    filter_->setClearButtonEnabled(true);
    everythingBox->addWidget(filter_);
    everythingBox->addWidget(all_);

    pages_->addWidget(heard_);
    pages_->addWidget(everything);
    pages_->addWidget(sounds_);
    pages_->addWidget(new FamilyPanel(session, playback));

    findings_->setProperty("link", true);
    findings_->setObjectName("findings");
    auto* box = new QVBoxLayout(this);
    box->setContentsMargins(0, 6, 0, 6);
    box->setSpacing(2);
    auto* tabBox = new QHBoxLayout;
    tabBox->setContentsMargins(12, 0, 4, 0);
    tabBox->addWidget(tabs_);
    box->addLayout(tabBox);
    box->addWidget(pages_, 1);
    auto* findingsBox = new QHBoxLayout;
    findingsBox->setContentsMargins(8, 0, 8, 0);
    findingsBox->addWidget(findings_);
    findingsBox->addStretch();
    box->addLayout(findingsBox);

    connect(tabs_, &QTabBar::currentChanged, pages_, &QStackedWidget::setCurrentIndex);
    connect(sounds_, &SoundLibrary::addWanted, this, &EarshotPanel::addSoundsWanted);
    connect(sounds_, &SoundLibrary::chosen, this, &EarshotPanel::soundChosen);
    connect(sounds_, &SoundLibrary::placeWanted, this, &EarshotPanel::placeWanted);
    connect(findings_, &QPushButton::clicked, this, &EarshotPanel::findingsWanted);
    connect(filter_, &QLineEdit::textChanged, this, &EarshotPanel::refreshAll);
    for (RowList* list : {heard_, all_}) {
        connect(list, &RowList::chosen, this, &EarshotPanel::choose);
    }
    // One refresh for a run of edits: a drag makes sixty a second.
    refreshSoon_.setSingleShot(true);
    refreshSoon_.setInterval(60);
    connect(&refreshSoon_, &QTimer::timeout, this, [this] {
        refreshHeard();
        refreshAll();
    });
    connect(&session_, &Session::documentChanged, this, [this] {
        if (!refreshSoon_.isActive()) {
            refreshSoon_.start();
        }
    });
    connect(&playback_, &Playback::listeningChanged, this, &EarshotPanel::refreshAll);
    connect(&session_, &Session::findingsChanged, this, &EarshotPanel::refreshFindings);
    connect(&session_, &Session::selectionChanged, this, [this] {
        const QString key =
            session_.selected<Room>() != nullptr ? roomPrefix + QString::fromStdString(session_.selected<Room>()->id.text)
            : session_.selected<Opening>() != nullptr
                ? openingPrefix + QString::fromStdString(session_.selected<Opening>()->id.text)
            : session_.selected<Plant>() != nullptr
                ? (session_.copyInHand().empty() ? plantPrefix + QString::fromStdString(session_.selected<Plant>()->id.text)
                                                 : QString::fromStdString(session_.copyInHand().text))
            : session_.selected<Zone>() != nullptr ? zonePrefix + QString::fromStdString(session_.selected<Zone>()->id.text)
            : session_.primary() != nullptr        ? QString::fromStdString(session_.primary()->id.text)
                                                   : QString();
        heard_->setCurrentKey(key);
        all_->setCurrentKey(key, true);
    });
    connect(&playback_, &Playback::ticked, this, [this] {
        if (!sinceRefresh_.isValid() || sinceRefresh_.elapsed() > refresh_ms) {
            sinceRefresh_.start();
            refreshHeard();
        }
    });
    refreshHeard();
    refreshAll();
    refreshFindings();
}

void EarshotPanel::choose(const QString& key)
{
    if (key.startsWith(roomPrefix)) {
        session_.selectThing<Room>({key.mid(roomPrefix.size()).toStdString()});
        return;
    }
    if (key.startsWith(openingPrefix)) {
        session_.selectThing<Opening>({key.mid(openingPrefix.size()).toStdString()});
        return;
    }
    if (key.startsWith(zonePrefix)) {
        session_.selectThing<Zone>({key.mid(zonePrefix.size()).toStdString()});
        return;
    }
    if (key.startsWith(plantPrefix)) {
        session_.selectThing<Plant>({key.mid(plantPrefix.size()).toStdString()});
        return;
    }
    const EmitterId id{(key.startsWith(gaveWayPrefix) ? key.mid(gaveWayPrefix.size()) : key).toStdString()};
    session_.selectOnly(id);
    emit emitterChosen(id);
}

SoundId EarshotPanel::currentSound() const
{
    return sounds_->current();
}

void EarshotPanel::audition()
{
    sounds_->audition();
}

void EarshotPanel::showSounds()
{
    tabs_->setCurrentIndex(2);
}

void EarshotPanel::refreshHeard()
{
    const HearingModel& model = playback_.hearing();
    std::vector<Heard> heard = playback_.heard();
    const auto& emitters = model.level().emitters;
    std::stable_sort(heard.begin(), heard.end(), [](const Heard& a, const Heard& b) { return a.level_db > b.level_db; });
    // What is planted is listed where it is heard: elsewhere its rule stands for it.
    const std::size_t written = model.world().document()->levels.find(model.level().id)->emitters.size();
    std::vector<Row> rows;
    std::vector<Row> out;
    for (const Heard& h : heard) {
        const Emitter& emitter = *emitters[h.index];
        Row row;
        row.key = QString::fromStdString(emitter.id.text);
        row.title = QString::fromStdString(emitter.name);
        row.kind = emitter.kind;
        row.flags = flagsOf(emitter);
        if (h.audible) {
            row.detail = whereFrom(h, emitter.kind);
            if (std::isfinite(model.sounds(h.index).to_s) && !playback_.listening() && !playback_.takes().take()) {
                row.detail += tr(" · once, at %1").arg(theme::clock(model.sounds(h.index).from_s));
            }
            row.value = theme::signedNumber(h.level_db, 0);
            row.bar = barOf(h.level_db);
            rows.push_back(std::move(row));
        } else if (!h.gaveWay && h.index < written) {
            row.detail = whyNot(model, h, emitter, playback_.when());
            row.faint = true;
            row.warning = model.soundless(h.index, h.start);
            out.push_back(std::move(row));
        }
    }
    Row heading;
    heading.heading = true;
    heading.title = rows.empty() ? tr("nothing is heard here") : tr("at your ears, loudest first · %1").arg(rows.size());
    rows.insert(rows.begin(), heading);
    addGaveWay(rows);
    addRooms(rows);
    addZones(rows);
    if (!out.empty()) {
        heading.title = tr("out of earshot · %1").arg(out.size());
        rows.push_back(heading);
        rows.insert(rows.end(), std::make_move_iterator(out.begin()), std::make_move_iterator(out.end()));
    }
    heard_->setRows(std::move(rows));
}

QString EarshotPanel::flagsOf(const Emitter& emitter) const
{
    const Playback::Marked marked = playback_.marked(emitter);
    QStringList flags;
    if (marked.muted) {
        flags << tr("mute");
    }
    if (marked.solo) {
        flags << tr("solo");
    }
    if (marked.hushed) {
        flags << tr("hush");
    }
    return flags.join(' ');
}

/// Who would be heard and gave way, an emitter once for all its copies that did: the one that would be loudest, and to whom.
void EarshotPanel::addGaveWay(std::vector<Row>& rows) const
{
    const HearingModel& model = playback_.hearing();
    std::map<std::uint32_t, std::pair<const Heard*, int>> gaveWay;
    const std::vector<Heard>& all = playback_.heardInReach();
    for (const Heard& heard : all) {
        if (heard.gaveWay) {
            auto& [loudest, copies] = gaveWay[heard.index];
            ++copies;
            if (loudest == nullptr || heard.gaveWay->wouldBe_db > loudest->gaveWay->wouldBe_db) {
                loudest = &heard;
            }
        }
    }
    if (gaveWay.empty()) {
        return;
    }
    std::vector<std::pair<const Heard*, int>> sorted;
    for (const auto& [index, what] : gaveWay) {
        sorted.push_back(what);
    }
    std::stable_sort(sorted.begin(), sorted.end(),
                     [](const auto& a, const auto& b) { return a.first->gaveWay->wouldBe_db > b.first->gaveWay->wouldBe_db; });
    Row heading;
    heading.heading = true;
    heading.title = tr("gave way · %1").arg(sorted.size());
    rows.push_back(heading);
    for (const auto& [heard, copies] : sorted) {
        const Emitter& emitter = *model.level().emitters[heard->index];
        Row row;
        row.key = gaveWayPrefix + QString::fromStdString(emitter.id.text);
        row.title = QString::fromStdString(emitter.name);
        row.kind = emitter.kind;
        row.detail =
            (copies > 1 ? tr("%1 copies, ").arg(copies) : QString()) + QString::fromStdString(silencedBy(model, *heard));
        row.value = theme::signedNumber(heard->gaveWay->wouldBe_db, 0);
        row.faint = true;
        rows.push_back(std::move(row));
    }
}

/// The rooms whose late field is heard, loudest first.
void EarshotPanel::addRooms(std::vector<Row>& rows) const
{
    std::vector<RoomHeard> heard = playback_.roomsHeard();
    std::erase_if(heard, [](const RoomHeard& room) { return room.level_db < audible_db; });
    if (heard.empty()) {
        return;
    }
    std::stable_sort(heard.begin(), heard.end(),
                     [](const RoomHeard& a, const RoomHeard& b) { return a.level_db > b.level_db; });
    Row heading;
    heading.heading = true;
    heading.title = tr("rooms that answer · %1").arg(heard.size());
    rows.push_back(heading);
    for (const RoomHeard& room : heard) {
        const Room& known = *playback_.hearing().level().rooms[room.room];
        Row row;
        row.key = roomPrefix + QString::fromStdString(known.id.text);
        row.title = QString::fromStdString(known.name);
        row.detail = room.surround > room.window ? tr("reverb, all round") : tr("reverb, through openings");
        row.value = theme::signedNumber(room.level_db, 0);
        row.bar = barOf(room.level_db);
        rows.push_back(std::move(row));
    }
}

/// The zones that the character is in, deepest nested first, with what others leave of them.
void EarshotPanel::addZones(std::vector<Row>& rows) const
{
    const World& world = playback_.hearing().world();
    const Moment moment = playback_.moment();
    ZonesAt zones;
    world.zonesAt(moment, zones);
    if (zones.in.empty()) {
        return;
    }
    Row heading;
    heading.heading = true;
    heading.title = tr("zones here · %1").arg(zones.in.size());
    rows.push_back(heading);
    for (const Presence& presence : zones.in) {
        const LaneValues fades =
            world.zones().fadesOf(presence.zone, zones, [&](const GameValueId& id) { return world.valueAt(moment, id); });
        Row row;
        row.key = zonePrefix + QString::fromStdString(world.zones().zone(presence.zone).id.text);
        row.title = QString::fromStdString(world.zones().zone(presence.zone).name);
        row.detail = tr("%1 inside").arg(theme::metres(presence.depth_m));
        row.value = fades.level_db > -96.0 ? theme::signedNumber(fades.level_db, 0) : tr("off");
        row.bar = std::pow(10.0, std::max(fades.level_db, -96.0) / 20.0);
        row.faint = fades.level_db <= -40.0;
        rows.push_back(std::move(row));
    }
}

void EarshotPanel::refreshAll()
{
    std::vector<Row> rows;
    for (const auto& emitter : session_.level().emitters) {
        Row row;
        row.title = QString::fromStdString(emitter->name);
        if (!row.title.contains(filter_->text(), Qt::CaseInsensitive)) {
            continue;
        }
        row.key = QString::fromStdString(emitter->id.text);
        row.kind = emitter->kind;
        const Sound* sound = session_.project().sounds.find(emitter->sound);
        row.detail = sound != nullptr ? tr("plays %1").arg(QString::fromStdString(sound->name)) : tr("has no sound");
        row.warning = sound == nullptr;
        row.faint = emitter->muted;
        row.flags = flagsOf(*emitter);
        rows.push_back(std::move(row));
    }
    for (const auto& zone : session_.level().zones) {
        Row row;
        row.title = QString::fromStdString(zone->name);
        if (!row.title.contains(filter_->text(), Qt::CaseInsensitive)) {
            continue;
        }
        row.key = zonePrefix + QString::fromStdString(zone->id.text);
        const Zone* parent = session_.level().zones.find(zone->parent);
        row.detail = parent != nullptr ? tr("zone inside of %1").arg(QString::fromStdString(parent->name)) : tr("zone");
        rows.push_back(std::move(row));
    }
    const auto addSpace = [&](const QString& prefix, const auto& thing, const QString& what) {
        Row row;
        row.title = QString::fromStdString(thing.name);
        row.key = prefix + QString::fromStdString(thing.id.text);
        row.detail = what;
        if (row.title.contains(filter_->text(), Qt::CaseInsensitive)) {
            rows.push_back(std::move(row));
        }
    };
    for (const auto& room : session_.level().rooms) {
        addSpace(roomPrefix, *room, tr("room"));
    }
    for (const auto& opening : session_.level().openings) {
        addSpace(openingPrefix, *opening, tr("opening"));
    }
    for (const PlantedRule& rule : playback_.hearing().world().planted().rules) {
        if (session_.level().plants.find(rule.plant->id) != nullptr) {
            addSpace(plantPrefix, *rule.plant, tr("plants %n", nullptr, static_cast<int>(rule.copies.size())));
        }
    }
    std::stable_sort(rows.begin(), rows.end(),
                     [](const Row& a, const Row& b) { return a.title.localeAwareCompare(b.title) < 0; });
    all_->setRows(std::move(rows));
}

void EarshotPanel::refreshFindings()
{
    const auto& findings = session_.findings();
    const auto serious = std::count_if(findings.begin(), findings.end(),
                                       [](const Finding& f) { return f.severity == Finding::Severity::error; });
    findings_->setText(findings.empty()       ? tr("No findings")
                       : findings.size() == 1 ? tr("▲ 1 finding · show")
                                              : tr("▲ %1 findings · show").arg(findings.size()));
    findings_->setEnabled(!findings.empty());
    findings_->setStyleSheet(serious > 0 ? "color: " + theme::cinnabar.name() : QString());
}

} // namespace stone
