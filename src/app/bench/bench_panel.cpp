#include "app/bench/bench_panel.h"

#include "app/theme/labels.h"
#include "project/range.h"

#include <QFormLayout>
#include <QFrame>
#include <QGridLayout>
#include <QHBoxLayout>
#include <QPainter>
#include <QScrollArea>
#include <QSignalBlocker>
#include <QVBoxLayout>

namespace stone
{

namespace
{

struct Tab {
    QString name;
    QWidget* part;
};

/// The sign of the selected thing's kind.
class Mark : public QWidget
{
public:
    explicit Mark(Session& session) : session_(session) { setFixedSize(26, 26); }

protected:
    void paintEvent(QPaintEvent*) override
    {
        if (const Emitter* emitter = session_.subject()) {
            QPainter painter(this);
            theme::drawMark(painter, emitter->kind, QPointF(13, 13), 19, theme::colourOf(emitter->kind));
        }
    }

private:
    Session& session_;
};

QScrollArea* scrolled(QWidget* content)
{
    auto* scroll = new QScrollArea;
    scroll->setWidget(content);
    scroll->setWidgetResizable(true);
    scroll->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    scroll->setFrameShape(QFrame::NoFrame);
    return scroll;
}

QFrame* rule()
{
    auto* frame = new QFrame;
    frame->setFixedHeight(1);
    frame->setStyleSheet("background: " + theme::line.name());
    return frame;
}

} // namespace

BenchPanel::BenchPanel(Session& session, Playback& playback, QWidget* parent)
    : QWidget(parent), session_(session), playback_(playback), pages_(new QStackedWidget),
      soundPage_(new SoundPage(session, playback)), name_(new QLineEdit), kind_(new QComboBox), subtitle_(theme::caption({})),
      mark_(new Mark(session)), sound_(new QComboBox),
      level_(new NumberField("dB", rangeOf(&EmitterSettings::level_db), 1, 1.0)),
      pitch_(new NumberField(tr("st"), rangeOf(&EmitterSettings::pitch_st), 1, 1.0)),
      start_(new NumberField("s", rangeOf(&EmitterSettings::startAfter_s), 1, 1.0)), muted_(new QCheckBox(tr("Mute"))),
      placeBox_(new QWidget), pin_(new QToolButton), solo_(new QToolButton), hushed_(new QToolButton), priority_(new QComboBox),
      pattern_(new PatternRow(session)), tabs_(new QTabBar), parts_(new QStackedWidget),
      falloff_(new FalloffEditor(session, playback)), facing_(new FacingEditor(session, playback)),
      placement_(new PlacementEditor(session, playback)), area_(new AreaForm(session, playback)),
      bed_(new BedForm(session, playback)), sprinkle_(new SprinkleForm(session, playback)),
      roamer_(new RoamerForm(session, playback)), steps_(new StepsForm(session, playback)),
      starting_(new StartForm(session, playback)), zonePage_(new ZonePage(session, playback)),
      rigPage_(new RigPage(session, playback)), gazePage_(new GazePage(session, playback)),
      roomPage_(new RoomPage(session, playback)), openingPage_(new OpeningPage(session, playback)), ledger_(new LedgerView),
      walls_(new WallsView)
{
    auto* box = new QVBoxLayout(this);
    box->setContentsMargins(0, 0, 0, 0);
    box->addWidget(pages_);
    pages_->addWidget(makeEmpty());
    pages_->addWidget(makeEmitter());
    pages_->addWidget(scrolled(soundPage_));
    pages_->addWidget(scrolled(zonePage_));
    pages_->addWidget(scrolled(rigPage_));
    pages_->addWidget(scrolled(gazePage_));
    pages_->addWidget(scrolled(roomPage_));
    pages_->addWidget(scrolled(openingPage_));
    connect(roomPage_, &RoomPage::drawWanted, this, &BenchPanel::drawWanted);
    connect(roomPage_, &RoomPage::fitWanted, this, &BenchPanel::fitWanted);
    connect(roomPage_, &RoomPage::decayWanted, this, &BenchPanel::decayWanted);
    connect(gazePage_, &GazePage::backWanted, this, [this] { showGaze(false); });
    connect(rigPage_, &RigPage::backWanted, this, [this] { showRig(false); });
    connect(rigPage_, &RigPage::compareWanted, this, &BenchPanel::compareWanted);
    connect(zonePage_, &ZonePage::drawWanted, this, &BenchPanel::drawWanted);
    connect(zonePage_, &ZonePage::fitWanted, this, &BenchPanel::fitWanted);
    connect(zonePage_, &ZonePage::sideChosen, this, &BenchPanel::sideChosen);
    connect(area_, &EmitterForm::fitWanted, this, &BenchPanel::fitWanted);
    connect(sprinkle_, &EmitterForm::fitWanted, this, &BenchPanel::fitWanted);
    connect(zonePage_, &ZonePage::emitterWanted, this, [this](const EmitterId& id) { session_.selectOnly(id); });
    connect(roamer_, &RoamerForm::drawWanted, this, &BenchPanel::drawWanted);
    connect(roamer_, &RoamerForm::previewed, this, &BenchPanel::previewed);
    connect(&session_, &Session::selectionChanged, this, [this] {
        rigShown_ = false;
        gazeShown_ = gazeShown_ && gazePage_->isVisible();
        soundPage_->showSound({});
    });
    connect(soundPage_, &SoundPage::backWanted, this, [this] { showSound({}); });
    connect(&playback_, &Playback::listeningChanged, this, &BenchPanel::refresh);
    connect(&playback_, &Playback::ticked, soundPage_, &SoundPage::refreshPositions);

    connect(&session_, &Session::documentChanged, this, &BenchPanel::refresh);
    connect(&playback_, &Playback::sceneChanged, this, &BenchPanel::refresh);
    connect(&session_, &Session::selectionChanged, this, &BenchPanel::refresh);
    connect(&session_, &Session::soundsChanged, this, &BenchPanel::refresh);
    connect(&session_, &Session::waysFound, this, &BenchPanel::refresh);
    connect(&playback_, &Playback::moved, this, [this] {
        falloff_->refreshEars();
        facing_->refreshEars();
        refreshLedger();
        if (sprinkle_->isVisible()) {
            sprinkle_->refreshMeasured();
        } else if (zonePage_->isVisible()) {
            zonePage_->refreshShare();
        } else if (rigPage_->isVisible()) {
            rigPage_->refreshPlaces();
        } else if (gazePage_->isVisible()) {
            gazePage_->refreshAngles();
        } else if (roomPage_->isVisible()) {
            roomPage_->refreshHeard();
        } else if (steps_->isVisible()) {
            steps_->refresh();
        }
    });
    refresh();
}

QWidget* BenchPanel::makeEmpty()
{
    auto* page = new QWidget;
    auto* box = new QVBoxLayout(page);
    box->setContentsMargins(18, 20, 18, 0);
    box->setSpacing(10);
    box->addWidget(theme::heading(tr("Nothing selected")));
    auto* text =
        new QLabel(tr("Choose an emitter on the Plan or in the list to see why it sounds as it does, and to change it.<br><br>"
                      "To place a new one, drag a sound from <b>Sounds</b> onto the Plan, or drop sound files there.<br><br>"
                      "<b>W A S D</b> walk, <b>Q E</b> turn, <b>Shift</b> faster<br>"
                      "<b>Space</b> listen · <b>1–9</b> saved places<br>"
                      "<b>Page Up / Down</b> storeys · <b>F</b> show all"));
    text->setWordWrap(true);
    text->setStyleSheet("color: " + theme::soft.name());
    box->addWidget(text);
    box->addStretch();
    return page;
}

QWidget* BenchPanel::makeEmitter()
{
    name_->setObjectName("emitterName");
    name_->setAccessibleName(tr("Name"));
    name_->setFont(theme::text(12, QFont::Bold));
    name_->setStyleSheet("QLineEdit { background: transparent; border: 1px solid transparent; padding: 0; }"
                         "QLineEdit:hover, QLineEdit:focus { border: 1px solid " +
                         theme::line.name() + "; background: white; }");
    sound_->setObjectName("emitterSound");
    sound_->setAccessibleName(tr("Sound"));
    sound_->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Fixed);
    level_->setObjectName("emitterLevel");
    pitch_->setObjectName("emitterPitch");
    start_->setObjectName("emitterStart");
    start_->setToolTip(tr("How long after the level's start it begins"));
    muted_->setObjectName("emitterMuted");
    solo_->setObjectName("emitterSolo");
    solo_->setText(tr("solo"));
    solo_->setCheckable(true);
    solo_->setToolTip(
        tr("Only for your ears: while anything is solo, only what is solo sounds. The project does not know of it"));
    for (QToolButton* button : {solo_, hushed_}) {
        button->setFont(theme::text(8.5));
        button->setStyleSheet("padding: 2px 4px");
    }
    hushed_->setObjectName("emitterHushed");
    hushed_->setText(tr("hush"));
    hushed_->setCheckable(true);
    hushed_->setToolTip(tr("Only for your ears: silent while you listen. The project does not know of it"));
    priority_->setObjectName("emitterPriority");
    priority_->setAccessibleName(tr("Priority"));
    priority_->setToolTip(tr("Who is mixed first when there are more sounds than voices. Vital ones never give way"));
    priority_->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Fixed);
    priority_->addItems({tr("family's"), tr("background"), tr("ordinary"), tr("notable"), tr("vital")});
    falloff_->setObjectName("falloffEditor");
    facing_->setObjectName("facingEditor");
    placement_->setObjectName("placementEditor");

    auto* head = new QGridLayout;
    head->setHorizontalSpacing(6);
    head->setVerticalSpacing(0);
    head->addWidget(mark_, 0, 0, 2, 1, Qt::AlignTop);
    auto* nameRow = new QHBoxLayout;
    nameRow->addWidget(name_, 1);
    nameRow->addWidget(pin_);
    head->addLayout(nameRow, 0, 1, 1, 2);
    kind_->setObjectName("emitterKind");
    kind_->setAccessibleName(tr("Kind"));
    kind_->setToolTip(tr("What kind of emitter it is. What belongs to another kind is kept"));
    kind_->addItems({tr("Point"), tr("Bed"), tr("Area"), tr("Sprinkle"), tr("Roamer"), tr("Steps")});
    auto* kindRow = new QHBoxLayout;
    kindRow->setSpacing(8);
    kindRow->addWidget(kind_);
    kindRow->addWidget(subtitle_, 1);
    head->addLayout(kindRow, 1, 1);
    connect(kind_, &QComboBox::activated, this, [this](int index) {
        session_.editSelected(tr("%1 becomes: %2").arg(name_->text(), kind_->itemText(index)), {},
                              [&](Emitter& e) { e.kind = static_cast<EmitterKind>(index); });
    });
    head->setColumnStretch(1, 1);
    pin_->setObjectName("pinBench");
    pin_->setCheckable(true);
    pin_->setText(tr("pin"));
    pin_->setToolTip(tr("Keeps this on the bench while you select and listen to other things"));
    connect(pin_, &QToolButton::clicked, this, [this](bool on) { session_.pin(on); });
    auto* switches = new QHBoxLayout;
    switches->setSpacing(6);
    switches->addWidget(muted_);
    switches->addWidget(solo_);
    switches->addWidget(hushed_);
    head->addLayout(switches, 1, 2);
    subtitle_->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Fixed);

    auto* grid = new QGridLayout;
    grid->setHorizontalSpacing(6);
    grid->setVerticalSpacing(1);
    auto* toSound = new QPushButton(tr("open"));
    toSound->setObjectName("openSound");
    toSound->setProperty("link", true);
    toSound->setToolTip(tr("Look at the sound itself: its files, filters, effects"));
    toSound->setFont(theme::text(8));
    connect(toSound, &QPushButton::clicked, this, [this] {
        if (const Emitter* emitter = session_.subject()) {
            showSound(emitter->sound);
        }
    });
    auto* soundHead = new QHBoxLayout;
    soundHead->setContentsMargins(0, 0, 0, 0);
    soundHead->addWidget(theme::caption(tr("Sound")));
    soundHead->addStretch();
    soundHead->addWidget(toSound);
    grid->addLayout(soundHead, 0, 0, 1, 2);
    grid->addWidget(theme::caption(tr("Level")), 0, 2);
    grid->addWidget(sound_, 1, 0, 1, 2);
    grid->addWidget(level_, 1, 2);
    grid->addWidget(theme::caption(tr("Pitch")), 2, 0);
    grid->addWidget(theme::caption(tr("Starts after")), 2, 1);
    grid->addWidget(pitch_, 3, 0);
    grid->addWidget(start_, 3, 1);
    grid->addWidget(theme::caption(tr("Priority")), 2, 2);
    grid->addWidget(priority_, 3, 2);
    for (int column = 0; column < 3; ++column) {
        grid->setColumnStretch(column, 1);
    }

    auto* placeRow = new QHBoxLayout(placeBox_);
    placeRow->setContentsMargins(0, 0, 0, 0);
    placeRow->setSpacing(6);
    static const char* axes[] = {"East", "North", "Height"};
    for (int axis = 0; axis < 3; ++axis) {
        auto* column = new QVBoxLayout;
        column->setSpacing(1);
        column->addWidget(theme::caption(tr(axes[axis])));
        place_[axis] = new NumberField("m", ranges::metres, 2, 0.1);
        place_[axis]->setObjectName(QString("emitter%1").arg(axes[axis]));
        column->addWidget(place_[axis]);
        placeRow->addLayout(column);
        connect(place_[axis], &NumberField::valueEdited, this, [this, axis](double value) {
            session_.editSubject(tr("Move %1: %2 %3").arg(name_->text(), tr(axes[axis]).toLower(), theme::metres(value)),
                                 QString("place field %1").arg(axis), [&](Emitter& e) { e.at[axis] = value; });
        });
        connect(place_[axis], &NumberField::editingFinished, this, [this] { session_.endGesture(); });
    }

    auto* content = new QWidget;
    auto* box = new QVBoxLayout(content);
    box->setContentsMargins(14, 12, 14, 8);
    box->setSpacing(7);
    box->addLayout(head);
    box->addLayout(grid);
    box->addWidget(placeBox_);
    box->addWidget(pattern_);
    tabs_->setObjectName("benchTabs");
    tabs_->setDrawBase(false);
    tabs_->setExpanding(false);
    tabs_->setUsesScrollButtons(false);
    for (QWidget* part : {static_cast<QWidget*>(falloff_), static_cast<QWidget*>(facing_), static_cast<QWidget*>(placement_),
                          static_cast<QWidget*>(area_), static_cast<QWidget*>(bed_), static_cast<QWidget*>(sprinkle_),
                          static_cast<QWidget*>(roamer_), static_cast<QWidget*>(steps_), static_cast<QWidget*>(starting_)}) {
        parts_->addWidget(part);
        part->setSizePolicy(QSizePolicy::Preferred, QSizePolicy::Ignored);
    }
    connect(tabs_, &QTabBar::currentChanged, this, [this] { refresh(); });
    box->addWidget(tabs_);
    box->addWidget(parts_);
    box->addWidget(rule());
    auto* why = new QHBoxLayout;
    why->addWidget(theme::heading(tr("Why it sounds like this")));
    why->addStretch();
    why->addWidget(theme::caption(tr("at your ears, now")));
    box->addLayout(why);
    box->addWidget(ledger_);
    walls_->hide();
    box->addWidget(walls_);
    connect(ledger_, &LedgerView::wallsClicked, this, [this] {
        walls_->setVisible(walls_->isHidden());
        ledger_->setWallsOpen(!walls_->isHidden());
        refreshLedger();
        // When it has got its room.
        QTimer::singleShot(0, this, [this] {
            emitterScroll_->ensureWidgetVisible(walls_->isHidden() ? static_cast<QWidget*>(ledger_) : walls_);
        });
    });
    box->addStretch();

    emitterScroll_ = scrolled(content);

    connect(name_, &QLineEdit::editingFinished, this, [this] {
        const Emitter* emitter = session_.subject();
        const QString wanted = name_->text().trimmed();
        if (emitter != nullptr && !wanted.isEmpty() && wanted.toStdString() != emitter->name) {
            session_.editSubject(tr("Rename %1 to %2").arg(QString::fromStdString(emitter->name), wanted), {},
                                 [&](Emitter& e) { e.name = wanted.toStdString(); });
        }
    });
    connect(sound_, &QComboBox::activated, this, [this](int index) {
        session_.editSelected(tr("%1 plays %2").arg(name_->text(), sound_->itemText(index)), {},
                              [&](Emitter& e) { e.sound = {sound_->itemData(index).toString().toStdString()}; });
    });
    connect(muted_, &QCheckBox::clicked, this, [this](bool on) {
        session_.editSelected((on ? tr("Mute %1") : tr("Unmute %1")).arg(name_->text()), {}, [&](Emitter& e) { e.muted = on; });
    });
    connect(solo_, &QToolButton::clicked, this, [this](bool on) { setForEars(&ForEars::solo, on); });
    connect(hushed_, &QToolButton::clicked, this, [this](bool on) { setForEars(&ForEars::muted, on); });
    connect(priority_, &QComboBox::activated, this, [this](int index) {
        session_.editSelected(tr("Priority of %1: %2").arg(name_->text(), priority_->itemText(index)), {}, [&](Emitter& e) {
            e.priority = index == 0 ? std::nullopt : std::optional(static_cast<Priority>(index - 1));
        });
    });
    bind(level_, tr("level of %1 to %2 dB"), &EmitterSettings::level_db);
    bind(pitch_, tr("pitch of %1 to %2 semitones"), &EmitterSettings::pitch_st);
    bind(start_, tr("start of %1 after %2 s"), &EmitterSettings::startAfter_s);
    return emitterScroll_;
}

/// All that is selected, and what is on the bench.
void BenchPanel::setForEars(std::set<EmitterId> ForEars::*list, bool on)
{
    ForEars forEars = playback_.forEars();
    std::set<EmitterId> which = session_.selection();
    if (const Emitter* emitter = session_.subject()) {
        which.insert(emitter->id);
    }
    for (const EmitterId& id : which) {
        if (on) {
            (forEars.*list).insert(id);
        } else {
            (forEars.*list).erase(id);
        }
    }
    playback_.setForEars(std::move(forEars));
}

void BenchPanel::bind(NumberField* field, const QString& what, double EmitterSettings::*member)
{
    connect(field, &NumberField::valueEdited, this, [this, field, what, member](double value) {
        QString name = what.arg(name_->text(), theme::signedNumber(value, field->decimals()));
        name[0] = name[0].toUpper();
        session_.editSelected(name, field->objectName(), [&](Emitter& e) { e.*member = value; });
    });
    connect(field, &NumberField::editingFinished, this, [this] { session_.endGesture(); });
}

void BenchPanel::refresh()
{
    const Emitter* emitter = session_.subject();
    const bool soundShown = !session_.pinned() && session_.project().sounds.find(soundPage_->sound()) != nullptr;
    const bool zoneShown = !soundShown && !session_.pinned() && session_.zone() != nullptr;
    if (gazeShown_) {
        pages_->setCurrentIndex(5);
        gazePage_->refresh();
        return;
    }
    if (rigShown_) {
        pages_->setCurrentIndex(4);
        rigPage_->refresh();
        return;
    }
    if (!soundShown && !session_.pinned() && session_.room() != nullptr) {
        pages_->setCurrentIndex(6);
        roomPage_->refresh();
        return;
    }
    if (!soundShown && !session_.pinned() && session_.opening() != nullptr) {
        pages_->setCurrentIndex(7);
        openingPage_->refresh();
        return;
    }
    pages_->setCurrentIndex(soundShown ? 2 : zoneShown ? 3 : emitter != nullptr ? 1 : 0);
    if (soundShown) {
        soundPage_->refresh();
        return;
    }
    if (zoneShown) {
        zonePage_->refresh();
        return;
    }
    if (emitter == nullptr) {
        return;
    }
    const Project& project = session_.project();
    const Sound* sound = project.sounds.find(emitter->sound);
    if (!name_->hasFocus() || !name_->isModified()) {
        name_->setText(QString::fromStdString(emitter->name));
        name_->setCursorPosition(0);
    }
    const bool placed = emitter->kind == EmitterKind::point || emitter->kind == EmitterKind::area ||
                        (emitter->kind == EmitterKind::sprinkle && emitter->sprinkling.where == Sprinkling::Where::shape);
    const auto selected = session_.selection().size();
    const QString several = session_.pinned() ? tr(" · pinned")
                            : selected > 1    ? tr(" · edits reach all %1 selected").arg(selected)
                                              : QString();
    kind_->setCurrentIndex(static_cast<int>(emitter->kind));
    subtitle_->setText((sound != nullptr && sound->loop ? tr("looped") : tr("plays once")) + several);
    const QSignalBlocker quietSound(sound_);
    sound_->clear();
    for (const auto& choice : project.sounds) {
        sound_->addItem(QString::fromStdString(choice->name), QString::fromStdString(choice->id.text));
    }
    sound_->setCurrentIndex(sound != nullptr ? sound_->findData(QString::fromStdString(sound->id.text)) : -1);
    sound_->setPlaceholderText(tr("no sound"));
    level_->present(emitter->level_db);
    pitch_->present(emitter->pitch_st);
    start_->present(emitter->startAfter_s);
    muted_->setChecked(emitter->muted);
    for (int axis = 0; axis < 3; ++axis) {
        place_[axis]->present(emitter->at[axis]);
    }
    placeBox_->setVisible(placed);
    solo_->setChecked(playback_.forEars().solo.contains(emitter->id));
    hushed_->setChecked(playback_.forEars().muted.contains(emitter->id));
    pin_->setChecked(session_.pinned());
    const QSignalBlocker quietPriority(priority_);
    priority_->setCurrentIndex(emitter->priority ? 1 + static_cast<int>(*emitter->priority) : 0);
    mark_->update();
    pattern_->refresh();
    refreshTabs(*emitter);
    refreshLedger();
}

/// The tabs are those that mean something for the kind.
void BenchPanel::refreshTabs(const Emitter& emitter)
{
    const EmitterKind kind = emitter.kind;
    std::vector<Tab> wanted;
    const Tab own[] = {{{}, nullptr},          {tr("Bed"), bed_},    {tr("Area"), area_}, {tr("Sprinkle"), sprinkle_},
                       {tr("Route"), roamer_}, {tr("Steps"), steps_}};
    if (const Tab& first = own[static_cast<std::size_t>(kind)]; first.part != nullptr) {
        wanted.push_back(first);
    }
    if (kind != EmitterKind::bed || !emitter.zone.empty()) {
        wanted.push_back({tr("Falloff"), falloff_});
    }
    const bool faces = kind != EmitterKind::bed && kind != EmitterKind::area;
    wanted.push_back({faces ? tr("Facing") : tr("Lanes"), facing_});
    if (kind != EmitterKind::bed) {
        wanted.push_back({tr("Placement"), placement_});
    }
    if (kind != EmitterKind::steps) {
        wanted.push_back({tr("Start"), starting_});
    }
    const QSignalBlocker quiet(tabs_);
    const QString current = tabs_->tabText(tabs_->currentIndex());
    bool same = tabs_->count() == static_cast<int>(wanted.size());
    for (int i = 0; same && i < tabs_->count(); ++i) {
        same = tabs_->tabText(i) == wanted[static_cast<std::size_t>(i)].name;
    }
    if (!same) {
        while (tabs_->count() > 0) {
            tabs_->removeTab(0);
        }
        int keep = 0;
        for (const Tab& tab : wanted) {
            const int index = tabs_->addTab(tab.name);
            keep = tab.name == current ? index : keep;
        }
        tabs_->setCurrentIndex(keep);
    }
    QWidget* shown = wanted[static_cast<std::size_t>(std::max(tabs_->currentIndex(), 0))].part;
    // Only the shown part asks for room.
    for (int i = 0; i < parts_->count(); ++i) {
        QWidget* part = parts_->widget(i);
        part->setSizePolicy(QSizePolicy::Preferred, part == shown ? QSizePolicy::Maximum : QSizePolicy::Ignored);
    }
    parts_->setCurrentWidget(shown);
    if (shown == falloff_) {
        falloff_->refresh();
    } else if (shown == facing_) {
        facing_->refresh();
    } else if (shown == placement_) {
        placement_->refresh();
    } else {
        static_cast<EmitterForm*>(shown)->refresh();
    }
}

void BenchPanel::showSound(const SoundId& id)
{
    soundPage_->showSound(id);
    refresh();
}

void BenchPanel::showGaze(bool on)
{
    gazeShown_ = on;
    refresh();
}

void BenchPanel::showRig(bool on)
{
    rigShown_ = on;
    gazeShown_ = false;
    refresh();
}

void BenchPanel::refreshLedger()
{
    const int index = session_.subjectIndex();
    if (index < 0) {
        return;
    }
    const HearingModel& model = playback_.hearing();
    if (static_cast<std::size_t>(index) < model.level().emitters.size()) {
        const Moment moment = playback_.moment();
        const Heard& heard = playback_.heard()[static_cast<std::size_t>(index)];
        ledger_->showHeard(model, moment, heard);
        if (!walls_->isHidden()) {
            walls_->showExplained(model, model.explain(moment, heard));
        }
    }
}

} // namespace stone
