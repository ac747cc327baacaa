// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/game/game_strip.h"

#include "app/theme/theme.h"

#include <QHBoxLayout>
#include <QPushButton>

namespace stone
{

GameStrip::GameStrip(GameDesk& desk, QWidget* parent) : QWidget(parent), desk_(desk), words_(new QLabel)
{
    setObjectName("gameStrip");
    setAttribute(Qt::WA_StyledBackground);
    setStyleSheet("#gameStrip { background: " + theme::shade.name() + "; border-bottom: 1px solid " + theme::line.name() +
                  "; }");
    words_->setObjectName("gameWords");
    words_->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Preferred);
    auto* box = new QHBoxLayout(this);
    box->setContentsMargins(14, 3, 8, 3);
    box->addWidget(words_, 1);
    const auto link = [&](const char* name, const QString& text) {
        auto* button = new QPushButton(text);
        button->setObjectName(name);
        button->setProperty("link", true);
        box->addWidget(button);
        return button;
    };
    connect(link("gameMore", tr("How it goes…")), &QPushButton::clicked, this, &GameStrip::asked);
    connect(link("gameEnd", tr("End")), &QPushButton::clicked, &desk_, &GameDesk::end);
    connect(&desk_, &GameDesk::changed, this, &GameStrip::refresh);
    refresh();
}

void GameStrip::refresh()
{
    setVisible(desk_.on());
    if (desk_.on()) {
        words_->setText(desk_.words());
    }
}

} // namespace stone
