// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/sounds/effects_form.h"

#include "app/theme/labels.h"

#include <QVBoxLayout>

namespace stone
{

EffectsForm::EffectsForm(Session& session, Playback& playback, QWidget* parent)
    : SoundForm(session, parent), playback_(playback),
      bare_(new QCheckBox(tr("Hear everything without filters and effects (T)")))
{
    bare_->setObjectName("bare");
    bare_->setToolTip(tr("For comparing; changes nothing in the project"));
    auto* grid = new QGridLayout(this);
    grid->setContentsMargins(0, 6, 0, 0);
    grid->setHorizontalSpacing(6);
    grid->setVerticalSpacing(4);
    int line = 0;
    const auto place = [&](std::initializer_list<QWidget*> fields) {
        int column = 0;
        for (QWidget* field : fields) {
            grid->addWidget(field, line, column++);
        }
        ++line;
    };
    const auto head = [&](QCheckBox* box) { grid->addWidget(box, line++, 0, 1, 3); };
    const auto field = [this](const char* name, const QString& label, const QString& unit, const QString& what,
                              const NumberRange& range, std::function<double&(Sound&)> member, const QString& help = {}) {
        return labelled(label, number({name, unit, what, help}, range, std::move(member)));
    };
    const NumberRange cutoff{20, 20'000, 0, 50};
    const NumberRange gain{-40, 40, 1, 1};

    head(flag("equaliser", tr("Equaliser"), tr("Two shelves and a bell"),
              [](Sound& s) -> bool& { return s.effects.equaliser.on; }));
    place({field("eqLow", tr("Low shelf"), "dB", tr("low shelf %1 dB"), gain,
                 [](Sound& s) -> double& { return s.effects.equaliser.low_db; }),
           field("eqMiddle", tr("Bell"), "dB", tr("bell %1 dB"), gain,
                 [](Sound& s) -> double& { return s.effects.equaliser.middle_db; }),
           field("eqHigh", tr("High shelf"), "dB", tr("high shelf %1 dB"), gain,
                 [](Sound& s) -> double& { return s.effects.equaliser.high_db; })});
    place({field("eqLowHz", tr("around"), "Hz", tr("low shelf at %1 Hz"), cutoff,
                 [](Sound& s) -> double& { return s.effects.equaliser.low_hz; }),
           field("eqMiddleHz", tr("around"), "Hz", tr("bell at %1 Hz"), cutoff,
                 [](Sound& s) -> double& { return s.effects.equaliser.middle_hz; }),
           field("eqHighHz", tr("around"), "Hz", tr("high shelf at %1 Hz"), cutoff,
                 [](Sound& s) -> double& { return s.effects.equaliser.high_hz; })});
    grid->addWidget(field("eqMiddleQ", tr("narrowness (Q)"), QString(), tr("bell Q %1"), {0.1, 20, 1, 0.1},
                          [](Sound& s) -> double& { return s.effects.equaliser.middleQ; }),
                    line++, 1);

    head(flag("saturation", tr("Saturation"), tr("Bends loud peaks round, as a strained loudspeaker does"),
              [](Sound& s) -> bool& { return s.effects.saturation.on; }));
    place({field(
        "drive", tr("Drive"), "dB", tr("drive %1 dB"), {0, 40, 1, 1},
        [](Sound& s) -> double& { return s.effects.saturation.drive_db; },
        tr("By how much soft sounds grow; full scale stays where it is"))});

    head(flag("tremolo", tr("Tremolo"), tr("The level goes up and down"),
              [](Sound& s) -> bool& { return s.effects.tremolo.on; }));
    place({field("tremoloRate", tr("Rate"), "Hz", tr("tremolo %1 Hz"), {0.01, 100, 2, 0.5},
                 [](Sound& s) -> double& { return s.effects.tremolo.rate_hz; }),
           field("tremoloDepth", tr("Depth"), "%", tr("tremolo depth %1 %"), {0, 100, 0, 10, 100.0},
                 [](Sound& s) -> double& { return s.effects.tremolo.depth; })});

    head(flag("echo", tr("Echo"), tr("A few repeats, each softer and duller than the one before"),
              [](Sound& s) -> bool& { return s.effects.echo.on; }));
    place({field("echoDelay", tr("After"), "ms", tr("echo after %1 ms"), {5, 500, 0, 10, 1000.0},
                 [](Sound& s) -> double& { return s.effects.echo.delay_s; }),
           field("echoLevel", tr("Each repeat"), "dB", tr("each repeat %1 dB"), {-60, -0.5, 1, 1},
                 [](Sound& s) -> double& { return s.effects.echo.level_db; }),
           field("echoDull", tr("dull above"), "Hz", tr("echo dull above %1 Hz"), cutoff,
                 [](Sound& s) -> double& { return s.effects.echo.dull_hz; })});

    grid->addWidget(bare_, line++, 0, 1, 3);
    for (int column = 0; column < 3; ++column) {
        grid->setColumnStretch(column, 1);
    }
    connect(bare_, &QCheckBox::clicked, this,
            [this](bool on) { playback_.listenOtherwise([on](Otherwise& otherwise) { otherwise.bare = on; }); });
}

void EffectsForm::refresh()
{
    SoundForm::refresh();
    bare_->setChecked(playback_.otherwise().bare);
}

} // namespace stone
