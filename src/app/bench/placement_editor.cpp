// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/bench/placement_editor.h"

#include "app/theme/labels.h"

#include <QGridLayout>
#include <QHBoxLayout>
#include <QRadioButton>
#include <QSignalBlocker>

namespace stone
{

namespace
{

/// What a mix starts with when one is asked for.
constexpr double halfAndHalf = 0.5;
enum Where { world, mix, ears };

} // namespace

PlacementEditor::PlacementEditor(Session& session, Playback& playback, QWidget* parent)
    : Page(parent), session_(session), where_(new QButtonGroup(this)), screening_(new ScreeningFields(session, playback)),
      share_(field("placementShare", "%", 0, 100, 0, 5, &Placement::inWorld, 100.0)),
      azimuth_(field("placementAzimuth", QStringLiteral("°"), -180, 180, 0, 5, &Placement::earsAzimuth_deg)),
      elevation_(field("placementElevation", QStringLiteral("°"), -90, 90, 0, 5, &Placement::earsElevation_deg)),
      spread_(field("placementSpread", QStringLiteral("°"), 0, 360, 0, 10, &Placement::spread_deg)),
      near_(field("placementNear", "m", 0, 1000, 2, 0.1, &Placement::nearRange_m)), speaker_(new QComboBox),
      channels_(new QComboBox), image_(field("placementImage", QStringLiteral("°"), 0, 360, 0, 5, &Placement::image_deg)),
      turns_(new QCheckBox(tr("turns with it"))),
      doppler_(field("placementDoppler", "%", 0, 1000, 0, 10, &Placement::doppler, 100.0)),
      limit_(field("placementLimit", tr("st"), 0.1, 48, 1, 0.5, &Placement::dopplerLimit_st)),
      air_(new QCheckBox(tr("air dulls it"))), words_(theme::caption({}))
{
    auto* row = new QHBoxLayout;
    row->setSpacing(4);
    int id = 0;
    for (const QString& name : {tr("In the world"), tr("Mix"), tr("In the ears")}) {
        auto* button = new QRadioButton(name);
        button->setObjectName(QString("where%1").arg(id));
        where_->addButton(button, id++);
        row->addWidget(button);
    }
    row->addStretch();
    speaker_->setObjectName("placementSpeaker");
    speaker_->setAccessibleName(tr("Loudspeaker"));
    speaker_->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Fixed);
    speaker_->addItem(tr("by direction"));
    for (const char* name : loudspeakers) {
        speaker_->addItem(QString::fromUtf8(name));
    }
    channels_->setObjectName("placementChannels");
    channels_->addItems({tr("not decided: folded"), tr("folded, mean"), tr("folded, equal power"), tr("left only"),
                         tr("right only"), tr("placed as a pair")});
    channels_->setAccessibleName(tr("Channels of the file"));
    channels_->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Fixed);
    words_->setWordWrap(true);
    words_->setStyleSheet("color: " + theme::ink.name());

    auto* grid = new QGridLayout(this);
    grid->setContentsMargins(0, 4, 0, 0);
    grid->setHorizontalSpacing(6);
    grid->setVerticalSpacing(1);
    grid->addLayout(row, 0, 0, 1, 3);
    grid->addWidget(words_, 1, 0, 1, 3);
    int line = 2;
    const auto add = [&](std::initializer_list<std::pair<QString, QWidget*>> cells) {
        int column = 0;
        for (const auto& [name, widget] : cells) {
            grid->addWidget(name.isEmpty() ? theme::caption({}) : theme::caption(name, widget), line, column);
            grid->addWidget(widget, line + 1, column++);
        }
        grid->setRowMinimumHeight(line, 18);
        line += 2;
    };
    add({{tr("Part in the world"), share_}, {tr("In the ears at"), azimuth_}, {tr("Above"), elevation_}});
    add({{tr("Spread"), spread_}, {tr("Opens up within"), near_}, {QString(), air_}});
    add({{tr("Channels of the file"), channels_}, {tr("Image width"), image_}, {QString(), turns_}});
    add({{tr("Doppler"), doppler_}, {tr("at most"), limit_}, {tr("Loudspeaker"), speaker_}});
    for (int column = 0; column < 3; ++column) {
        grid->setColumnStretch(column, 1);
    }
    grid->addWidget(screening_, line++, 0, 1, 3);
    grid->setRowStretch(line, 1);

    connect(where_, &QButtonGroup::idClicked, this, [this](int chosen) {
        edit(where_->button(chosen)->text().toLower(), {}, [&](Placement& p) {
            const bool mixed = p.inWorld > 0.0 && p.inWorld < 1.0;
            p.inWorld = chosen == world ? 1.0 : chosen == ears ? 0.0 : mixed ? p.inWorld : halfAndHalf;
        });
    });
    connect(speaker_, &QComboBox::activated, this, [this](int index) {
        edit(tr("loudspeaker %1").arg(speaker_->itemText(index)), {},
             [&](Placement& p) { p.earsSpeaker = index > 0 ? speaker_->itemText(index).toStdString() : std::string(); });
    });
    connect(channels_, &QComboBox::activated, this, [this](int index) {
        edit(channels_->itemText(index), {}, [&](Placement& p) { p.channels = static_cast<ChannelUse>(index); });
    });
    connect(turns_, &QCheckBox::clicked, this, [this](bool on) {
        edit(on ? tr("image turns") : tr("image faces the ears"), {}, [&](Placement& p) { p.imageTurns = on; });
    });
    connect(air_, &QCheckBox::clicked, this,
            [this](bool on) { edit(on ? tr("air") : tr("no air"), {}, [&](Placement& p) { p.air = on; }); });
}

NumberField* PlacementEditor::field(const char* name, const QString& unit, double least, double most, int decimals, double step,
                                    double Placement::*member, double scale)
{
    auto* made = new NumberField(unit, least, most, decimals, step);
    made->setObjectName(name);
    connect(made, &NumberField::valueEdited, this, [this, made, member, scale](double value) {
        edit(made->accessibleName() + ' ' + made->text(), made->objectName(), [&](Placement& p) { p.*member = value / scale; });
    });
    connect(made, &NumberField::editingFinished, this, [this] { session_.endGesture(); });
    return made;
}

void PlacementEditor::edit(const QString& what, const QString& gesture, const std::function<void(Placement&)>& change)
{
    if (const Emitter* emitter = session_.subject()) {
        session_.editSelected(tr("Placement of %1: %2").arg(QString::fromStdString(emitter->name), what), gesture,
                              [&](Emitter& e) { change(e.placement); });
    }
}

void PlacementEditor::allow(QWidget* widget, bool allowed, const QString& help, const QString& why)
{
    widget->setEnabled(allowed);
    widget->setToolTip(allowed ? help : tr("No effect: %1").arg(why));
}

void PlacementEditor::refresh()
{
    const Emitter* emitter = session_.subject();
    if (emitter == nullptr) {
        return;
    }
    screening_->refresh();
    const Placement& p = emitter->placement;
    const bool inWorld = p.inWorld > 0.0;
    const bool inEars = p.inWorld < 1.0;
    where_->button(!inEars ? world : inWorld ? mix : ears)->setChecked(true);
    share_->present(100.0 * p.inWorld);
    azimuth_->present(p.earsAzimuth_deg);
    elevation_->present(p.earsElevation_deg);
    spread_->present(p.spread_deg);
    near_->present(p.nearRange_m);
    image_->present(p.image_deg);
    doppler_->present(100.0 * p.doppler);
    limit_->present(p.dopplerLimit_st);
    air_->setChecked(p.air);
    turns_->setChecked(p.imageTurns);
    const QSignalBlocker quiet(channels_);
    channels_->setCurrentIndex(static_cast<int>(p.channels));

    const Sound* sound = session_.project().sounds.find(emitter->sound);
    const SoundBank::Entry entry = sound != nullptr ? session_.soundEntry(*sound) : SoundBank::Entry{};
    const std::size_t channels = entry.buffer ? entry.buffer->channelCount() : 1;
    const QString notInWorld = tr("it is fixed in the ears, where the world does not count");
    const QString notInEars = tr("it is wholly in the world");
    allow(share_, true, tr("How much of its power comes from its place; the rest is fixed in the ears"), {});
    allow(azimuth_, inEars, tr("Where the part in the ears sits: 0 ahead, 90 right. Or drag it on the Ear dial"), notInEars);
    allow(elevation_, inEars, tr("How far above"), notInEars);
    speaker_->setCurrentIndex(p.earsSpeaker.empty() ? 0 : speaker_->findText(QString::fromStdString(p.earsSpeaker)));
    allow(speaker_, inEars && !(channels > 1 && p.channels == ChannelUse::image),
          tr("The part in the ears has this loudspeaker to itself; where a layout has none of that name, it comes from where "
             "it would stand"),
          inEars ? tr("its channels have directions of their own") : notInEars);
    allow(spread_, inWorld, tr("How wide it is: 0° a point, 360° from all round"), notInWorld);
    allow(near_, inWorld,
          tr("Nearer than this it opens up until it surrounds, so that walking through does not flip the sides"), notInWorld);
    allow(air_, inWorld, tr("Far away the air takes its treble"), notInWorld);
    const QString mono = tr("the file has one channel");
    channels_->setPlaceholderText(tr("one channel"));
    if (channels < 2) {
        channels_->setCurrentIndex(-1);
    }
    allow(channels_, channels > 1, tr("What becomes of the file's %1 channels").arg(channels), mono);
    const bool image = channels > 1 && p.channels == ChannelUse::image;
    const QString noImage = channels > 1 ? tr("its channels are folded into one") : mono;
    allow(image_, image && inWorld, tr("The angle between its outermost channels, as seen from the ears"),
          image ? notInWorld : noImage);
    allow(turns_, image && inWorld, tr("Its left and right turn with the emitter instead of facing the ears"),
          image ? notInWorld : noImage);
    allow(doppler_, inWorld,
          tr("How much its pitch shifts as one passes: 100 % as in nature; it then also arrives as late as sound does"),
          notInWorld);
    allow(limit_, inWorld && p.doppler > 0.0, tr("The most that its pitch may shift"),
          inWorld ? tr("there is no Doppler") : notInWorld);
    words_->setText(!inEars ? tr("Comes from where it is; turning the head turns it.")
                    : !inWorld
                        ? tr("Stays where it is in the head; distance, facing and side do nothing.")
                        : tr("%1 % of its power from where it is, the rest stays in the head.").arg(qRound(100.0 * p.inWorld)));
}

} // namespace stone
