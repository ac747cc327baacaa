// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QTranslator>

namespace stone::theme
{

/// What texts with a number (%n) say of one thing: the sources write them for many. Those that are not listed read the same
/// for one.
class Singular : public QTranslator
{
public:
    using QTranslator::QTranslator;

    QString translate(const char* context, const char* text, const char* hint, int number) const override;
    bool isEmpty() const override { return false; }
};

} // namespace stone::theme
