// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QFile>
#include <QHash>
#include <QString>
#include <QStringList>
#include <QVector>

/// Rows of a CSV of the reference numbers, by column name. "inf" and "-inf" are numbers; an empty field is NaN.
class CsvRow
{
public:
    CsvRow(const QStringList& names, const QStringList& fields)
    {
        for (qsizetype i = 0; i < names.size(); ++i) {
            fields_[names[i]] = i < fields.size() ? fields[i] : QString();
        }
    }
    QString text(const QString& name) const { return fields_.value(name); }
    double number(const QString& name) const
    {
        bool ok = false;
        const double value = fields_.value(name).toDouble(&ok);
        return ok ? value : qQNaN();
    }

private:
    QHash<QString, QString> fields_;
};

inline QVector<CsvRow> readCsv(const QString& name)
{
    QFile file(QStringLiteral(TEST_DATA "/") + name);
    if (!file.open(QIODevice::ReadOnly)) {
        qFatal("%s is missing", qPrintable(file.fileName()));
    }
    QStringList lines = QString::fromUtf8(file.readAll()).split('\n', Qt::SkipEmptyParts);
    const QStringList names = lines.takeFirst().trimmed().split(',');
    QVector<CsvRow> rows;
    for (const QString& line : lines) {
        rows << CsvRow(names, line.trimmed().split(','));
    }
    return rows;
}
