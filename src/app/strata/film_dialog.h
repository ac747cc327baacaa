// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/strata/film_maker.h"

#include <QComboBox>
#include <QDialog>
#include <QLabel>
#include <QProgressBar>
#include <QPushButton>

namespace stone
{

/// Asks what a film of the take is to be, makes it, and shows how far it is.
class FilmDialog : public QDialog
{
    Q_OBJECT

public:
    FilmDialog(Session& session, Playback& playback, QWidget* parent);

signals:
    /// A film was made; one line for the person.
    void made(const QString& message, const QString& file);

private:
    void askWhere();
    void make(const QString& file);
    void refresh();

    Session& session_;
    Playback& playback_;
    QComboBox* of_;
    QComboBox* size_;
    QComboBox* rate_;
    QLabel* words_;
    QProgressBar* progress_;
    QPushButton* make_ = nullptr;
    FilmMaker* maker_ = nullptr; ///< while one is made
};

} // namespace stone
