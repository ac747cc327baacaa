// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/bench/emitter_head.h"

#include "app/theme/labels.h"
#include "app/theme/theme.h"
#include "project/range.h"

#include <QGridLayout>
#include <QHBoxLayout>
#include <QMenu>
#include <QPainter>
#include <QPushButton>
#include <QSignalBlocker>
#include <QVBoxLayout>

namespace stone
{

namespace
{

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

} // namespace

EmitterHead::EmitterHead(Session& session, Playback& playback, QWidget* parent)
    : Page(parent), session_(session), playback_(playback), name_(new QLineEdit), kind_(new QComboBox),
      reach_(theme::caption({})), soundCaption_(theme::caption({})), mark_(new Mark(session)), sound_(new QComboBox),
      level_(new NumberField("dB", rangeOf(&EmitterSettings::level_db), 1, 1.0)),
      pitch_(new NumberField(tr("st"), rangeOf(&EmitterSettings::pitch_st), 1, 1.0)),
      start_(new NumberField("s", rangeOf(&EmitterSettings::startAfter_s), 1, 1.0)), muted_(new QCheckBox(tr("Mute"))),
      placeBox_(new QWidget), pin_(new QToolButton), solo_(new QToolButton), hushed_(new QToolButton), try_(new QToolButton),
      priority_(new QComboBox), pattern_(new PatternRow(session))
{
    setUpFields();
    auto* box = new QVBoxLayout(this);
    box->setContentsMargins(0, 0, 0, 0);
    box->setSpacing(7);
    box->addLayout(nameRows());
    box->addLayout(settingRows());
    layOutPlace();
    box->addWidget(placeBox_);
    box->addWidget(pattern_);
    connectFields();
}

void EmitterHead::setUpFields()
{
    name_->setObjectName("emitterName");
    name_->setAccessibleName(tr("Name"));
    name_->setFont(theme::text(12, QFont::Bold));
    name_->setStyleSheet("QLineEdit { background: transparent; border: 1px solid transparent; padding: 0; }"
                         "QLineEdit:hover, QLineEdit:focus { border: 1px solid " +
                         theme::line.name() + "; background: " + theme::field.name() + "; }");
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
    for (QToolButton* button : {solo_, hushed_, try_}) {
        button->setFont(theme::text(8.5));
        button->setStyleSheet("QToolButton { padding: 2px 3px; } QToolButton::menu-indicator { image: none; }");
    }
    hushed_->setObjectName("emitterHushed");
    hushed_->setText(tr("hush"));
    hushed_->setCheckable(true);
    hushed_->setToolTip(tr("Only for your ears: silent while you listen. The project does not know of it"));
    makeTryMenu();
    priority_->setObjectName("emitterPriority");
    priority_->setAccessibleName(tr("Priority"));
    priority_->setToolTip(tr("Who is mixed first when there are more sounds than voices. Vital ones never give way"));
    priority_->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Fixed);
    priority_->addItems({tr("family's"), tr("background"), tr("ordinary"), tr("notable"), tr("vital")});
}

/// The sign, the name, what kind it is, and whether it is heard.
QLayout* EmitterHead::nameRows()
{
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
    kind_->addItems({tr("Point"), tr("Bed"), tr("Area"), tr("Sprinkle"), tr("Roamer"), tr("Steps"), tr("Pulse")});
    auto* kindRow = new QHBoxLayout;
    kindRow->setSpacing(8);
    kindRow->addWidget(kind_);
    kindRow->addStretch();
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
    switches->setSpacing(4);
    switches->addWidget(muted_);
    switches->addWidget(solo_);
    switches->addWidget(hushed_);
    switches->addWidget(try_);
    head->addLayout(switches, 1, 2);
    head->addWidget(reach_, 2, 1, 1, 2);
    reach_->setObjectName("emitterReach");
    return head;
}

/// Sound, level, pitch, start, priority.
QLayout* EmitterHead::settingRows()
{
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
            emit soundWanted(emitter->sound);
        }
    });
    auto* soundHead = new QHBoxLayout;
    soundHead->setContentsMargins(0, 0, 0, 0);
    soundHead->addWidget(soundCaption_);
    soundHead->addStretch();
    soundHead->addWidget(toSound);
    grid->addLayout(soundHead, 0, 0, 1, 2);
    grid->addWidget(theme::caption(tr("Level"), level_), 0, 2);
    grid->addWidget(sound_, 1, 0, 1, 2);
    grid->addWidget(level_, 1, 2);
    grid->addWidget(theme::caption(tr("Pitch"), pitch_), 2, 0);
    grid->addWidget(theme::caption(tr("Starts after"), start_), 2, 1);
    grid->addWidget(pitch_, 3, 0);
    grid->addWidget(start_, 3, 1);
    grid->addWidget(theme::caption(tr("Priority")), 2, 2);
    grid->addWidget(priority_, 3, 2);
    for (int column = 0; column < 3; ++column) {
        grid->setColumnStretch(column, 1);
    }
    return grid;
}

void EmitterHead::layOutPlace()
{
    auto* placeRow = new QHBoxLayout(placeBox_);
    placeRow->setContentsMargins(0, 0, 0, 0);
    placeRow->setSpacing(6);
    static const char* axes[] = {"East", "North", "Height"};
    for (int axis = 0; axis < 3; ++axis) {
        auto* column = new QVBoxLayout;
        column->setSpacing(1);
        place_[axis] = new NumberField("m", ranges::metres, 2, 0.1);
        column->addWidget(theme::caption(tr(axes[axis]), place_[axis]));
        place_[axis]->setObjectName(QString("emitter%1").arg(axes[axis]));
        column->addWidget(place_[axis]);
        placeRow->addLayout(column);
        connect(place_[axis], &NumberField::valueEdited, this, [this, axis](double value) {
            session_.editSubject(tr("Move %1: %2 %3").arg(name_->text(), tr(axes[axis]).toLower(), theme::metres(value)),
                                 QString("place field %1").arg(axis), [&](Emitter& e) { e.at[axis] = value; });
        });
        connect(place_[axis], &NumberField::editingFinished, this, [this] { session_.endGesture(); });
    }
}

void EmitterHead::connectFields()
{
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
}

/// What else can be done to it for these ears alone.
void EmitterHead::makeTryMenu()
{
    try_->setObjectName("emitterTry");
    try_->setText(tr("try ▾"));
    try_->setToolTip(tr("Only for your ears: start it anew, stop it, leave something out. The project does not know of it"));
    try_->setPopupMode(QToolButton::InstantPopup);
    auto* menu = new QMenu(try_);
    try_->setMenu(menu);
    menu->addSection(tr("Only for your ears"));
    connect(menu->addAction(tr("Start it from its beginning (Ctrl+Space)")), &QAction::triggered, this,
            [this] { playback_.startByHand(session_.inHand()); });
    connect(menu->addAction(tr("Stop it (Ctrl+Shift+Space)")), &QAction::triggered, this,
            [this] { playback_.stopByHand(session_.inHand()); });
    menu->addSeparator();
    const struct {
        QString text;
        std::set<EmitterId> Otherwise::*which;
    } ways[] = {{tr("Hear it without filters and effects"), &Otherwise::bareOnes},
                {tr("Hear it without reverb"), &Otherwise::dryOnes},
                {tr("Hear it through walls as if there were none"), &Otherwise::openOnes}};
    for (const auto& way : ways) {
        QAction* action = menu->addAction(way.text);
        action->setCheckable(true);
        connect(action, &QAction::triggered, this, [this, which = way.which](bool on) {
            playback_.listenOtherwise([&](Otherwise& otherwise) {
                for (const EmitterId& id : session_.inHand()) {
                    if (on) {
                        (otherwise.*which).insert(id);
                    } else {
                        (otherwise.*which).erase(id);
                    }
                }
            });
        });
        connect(menu, &QMenu::aboutToShow, action, [this, action, which = way.which] {
            const Emitter* emitter = session_.subject();
            action->setChecked(emitter != nullptr && (playback_.otherwise().*which).contains(emitter->id));
        });
    }
}

void EmitterHead::setForEars(std::set<EmitterId> ForEars::*list, bool on)
{
    ForEars forEars = playback_.forEars();
    for (const EmitterId& id : session_.inHand()) {
        if (on) {
            (forEars.*list).insert(id);
        } else {
            (forEars.*list).erase(id);
        }
    }
    playback_.setForEars(std::move(forEars));
}

void EmitterHead::bind(NumberField* field, const QString& what, double EmitterSettings::*member)
{
    connect(field, &NumberField::valueEdited, this, [this, field, what, member](double value) {
        QString name = what.arg(name_->text(), theme::signedNumber(value, field->decimals()));
        name[0] = name[0].toUpper();
        session_.editSelected(name, field->objectName(), [&](Emitter& e) { e.*member = value; });
    });
    connect(field, &NumberField::editingFinished, this, [this] { session_.endGesture(); });
}

void EmitterHead::refresh()
{
    const Emitter* emitter = session_.subject();
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
    const QString reaches = session_.pinned() ? tr("pinned: it stays here whatever is selected")
                            : selected > 1    ? tr("edits reach all %1 that are selected").arg(selected)
                                              : QString();
    kind_->setCurrentIndex(static_cast<int>(emitter->kind));
    reach_->setText(reaches);
    reach_->setVisible(!reaches.isEmpty());
    soundCaption_->setText(sound == nullptr ? tr("Sound") : sound->loop ? tr("Sound, looped") : tr("Sound, plays once"));
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
}

} // namespace stone
