<?php

declare(strict_types=1);

namespace Kaiseki\Core\Content;

/** What the beginning of a content and its name say it is, for looking at it. Nothing in it is believed beyond that. */
enum Form: string
{
    case Text = 'text';
    /** Rows of cells: comma, semicolon or tab between them. */
    case Table = 'table';
    case Picture = 'picture';
    case Pdf = 'pdf';
    /** A zip of XML as word processors, spreadsheets and presentations write it. */
    case Office = 'office';
    case Other = 'other';

    /** @param  string  $head  its first kilobytes */
    public static function of(string $head, string $name): self
    {
        $ending = strtolower((string) strrchr($name, '.'));

        return match (true) {
            str_starts_with($head, '%PDF-') => self::Pdf,
            // PNG, JPEG, GIF, WebP, BMP by their first bytes.
            preg_match('/^(?:\x89PNG\r\n\x1a\n|\xff\xd8\xff|GIF8[79]a|RIFF....WEBP|BM.{4}\0\0\0\0)/s', $head) === 1 => self::Picture,
            str_starts_with($head, "PK\x03\x04") => in_array($ending, ['.docx', '.xlsx', '.pptx', '.odt', '.ods', '.odp'], true)
                ? self::Office
                : self::Other,
            ! PlainText::isText($head) => self::Other,
            in_array($ending, ['.csv', '.tsv'], true) => self::Table,
            default => self::Text,
        };
    }

    /** Whether it may hold words to search for, as far as its name tells; many files need not be opened then. */
    public static function mayHoldText(string $name): bool
    {
        return preg_match(
            '/\.(?:txt|csv|tsv|md|log|ini|conf|cfg|json|ya?ml|xml|html?|css|js|php|py|sh|sql|tex|rtf|eml|docx|xlsx|pptx|odt|ods|odp)$/Di',
            $name,
        ) === 1;
    }
}
