#include "app/shell/for_ears_strip.h"

#include "app/theme/theme.h"

#include <QHBoxLayout>
#include <QPushButton>

namespace stone
{

namespace
{

constexpr qsizetype mostNames = 3;

template <class Id, class Things> void addNames(QStringList& names, const std::set<Id>& ids, const Things& things)
{
    for (const Id& id : ids) {
        if (const auto* thing = things.find(id)) {
            names << QString::fromStdString(thing->name);
        }
    }
}

QString shortList(QStringList names)
{
    const qsizetype more = names.size() - mostNames;
    if (more > 0) {
        names = names.first(mostNames);
        names << QObject::tr("%1 more").arg(more);
    }
    return names.join(QStringLiteral(", "));
}

} // namespace

ForEarsStrip::ForEarsStrip(Session& session, Playback& playback, QWidget* parent)
    : QWidget(parent), session_(session), playback_(playback), words_(new QLabel)
{
    setObjectName("forEars");
    setAttribute(Qt::WA_StyledBackground);
    setStyleSheet("#forEars { background: " + theme::shade.name() + "; border-bottom: 1px solid " + theme::line.name() + "; }");
    words_->setObjectName("forEarsWords");
    words_->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Preferred);
    auto* clear = new QPushButton(tr("Hear it as it is (F10)"));
    clear->setObjectName("forEarsClear");
    clear->setProperty("link", true);
    clear->setToolTip(tr("Ends solo and all else that is only for your ears; the project has none of it"));
    auto* box = new QHBoxLayout(this);
    box->setContentsMargins(14, 3, 8, 3);
    box->addWidget(words_, 1);
    box->addWidget(clear);
    connect(clear, &QPushButton::clicked, this, [this] { playback_.hearAsItIs(); });
    connect(&playback_, &Playback::listeningChanged, this, &ForEarsStrip::refresh);
    connect(&session_, &Session::documentChanged, this, &ForEarsStrip::refresh);
    refresh();
}

void ForEarsStrip::refresh()
{
    const ForEars& forEars = playback_.forEars();
    const auto& emitters = session_.level().emitters;
    QStringList parts;
    if (forEars.anySolo()) {
        QStringList names;
        addNames(names, forEars.solo, emitters);
        addNames(names, forEars.soloFamilies, session_.project().families);
        parts << tr("solo: %1").arg(names.isEmpty() ? tr("nothing that is here") : shortList(names));
    }
    if (!forEars.muted.empty()) {
        QStringList names;
        addNames(names, forEars.muted, emitters);
        parts << tr("hushed: %1").arg(names.isEmpty() ? tr("nothing that is here") : shortList(names));
    }
    if (playback_.otherFalloff()) {
        const Emitter* emitter = emitters.find(playback_.otherFalloff()->emitter);
        parts << tr("another falloff: %1").arg(emitter != nullptr ? QString::fromStdString(emitter->name) : QString());
    }
    if (playback_.bare()) {
        parts << tr("without filters and effects");
    }
    if (!playback_.gazing()) {
        parts << tr("without the gaze");
    }
    if (!playback_.answering()) {
        parts << tr("without reverb");
    }
    words_->setText(tr("Only for your ears · %1").arg(parts.join(QStringLiteral(" · "))));
    words_->setToolTip(words_->text());
    setVisible(!parts.isEmpty());
}

} // namespace stone
