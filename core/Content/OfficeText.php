<?php

declare(strict_types=1);

namespace Kaiseki\Core\Content;

use XMLReader;
use ZipArchive;

/**
 * The words in a zipped office document: Office Open XML (ECMA-376) and OpenDocument (ISO/IEC 26300). Bounded, since what
 * is in it comes from anywhere: members, their sizes, how far they are packed, and what comes out.
 */
final class OfficeText
{
    private const PARTS = '~^(?:word/(?:document|footnotes|header\d*|footer\d*)\.xml|'.
        'xl/sharedStrings\.xml|xl/worksheets/sheet\d+\.xml|ppt/slides/slide\d+\.xml|content\.xml)$~D';

    /** Elements after which a line ends: paragraphs, rows, shared strings. */
    private const LINES = [
        'w:p' => true,
        'a:p' => true,
        'text:p' => true,
        'text:h' => true,
        'table:table-row' => true,
        'si' => true,
        'row' => true,
    ];

    private const MOST_MEMBERS = 5000;

    private const MOST_IN_MEMBER = 16 << 20;

    private const HIGHEST_RATIO = 200;

    /**
     * @param  string  $file  a zip on the disk
     * @param  int  $most  bytes of text that are wanted
     * @return string|null null if it is no document that can be read
     */
    public static function of(string $file, int $most): ?string
    {
        $zip = new ZipArchive;
        if ($zip->open($file, ZipArchive::RDONLY) !== true) {
            return null;
        }
        $text = '';
        for ($i = 0; $i < min($zip->numFiles, self::MOST_MEMBERS) && strlen($text) < $most; $i++) {
            $about = $zip->statIndex($i);
            if (
                $about === false ||
                preg_match(self::PARTS, $about['name']) !== 1 ||
                $about['size'] > self::MOST_IN_MEMBER ||
                $about['size'] > self::HIGHEST_RATIO * max(1024, $about['comp_size'])
            ) {
                continue;
            }
            $xml = $zip->getFromIndex($i, self::MOST_IN_MEMBER);
            $text .= $xml === false ? '' : self::words($xml, $most - strlen($text));
        }
        $zip->close();

        return $text === '' ? null : mb_strcut($text, 0, $most);
    }

    /** Character data only; entities are not resolved and nothing is fetched. */
    private static function words(string $xml, int $most): string
    {
        if (stripos(substr($xml, 0, 4096), '<!DOCTYPE') !== false) {
            return '';
        }
        $before = libxml_use_internal_errors(true);
        $text = '';
        $reader = new XMLReader;
        if ($reader->XML($xml, null, LIBXML_NONET | LIBXML_COMPACT)) {
            while (@$reader->read() && strlen($text) < $most) {
                if ($reader->nodeType === XMLReader::TEXT || $reader->nodeType === XMLReader::SIGNIFICANT_WHITESPACE) {
                    $text .= $reader->value;
                } elseif ($reader->nodeType === XMLReader::END_ELEMENT) {
                    $text .= isset(self::LINES[$reader->name])
                        ? "\n"
                        : (str_ends_with($reader->name, 'cell') || $reader->name === 'v'
                            ? "\t"
                            : '');
                }
            }
            $reader->close();
        }
        libxml_clear_errors();
        libxml_use_internal_errors($before);

        return $text;
    }
}
