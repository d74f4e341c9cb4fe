<?php

declare(strict_types=1);

namespace Kaiseki\Core\Mail;

use Normalizer;

/** Text as words that are looked for: small letters without accents; where a language writes no spaces, pairs of characters. */
final class SearchWords
{
    /** Letters that stay whole when marks are taken away => how they are looked for. */
    private const LETTERS = [
        'ß' => 'ss', 'ø' => 'o', 'æ' => 'ae', 'œ' => 'oe', 'đ' => 'd', 'ð' => 'd', 'ł' => 'l', 'ı' => 'i', 'þ' => 'th', 'ħ' => 'h',
    ];

    private const UNSPACED = '\p{Han}\p{Hiragana}\p{Katakana}\p{Thai}';

    /** Longer ones are cut. */
    private const LONGEST = 60;

    /** @return list<string> in the order in which they stand */
    public static function of(string $text): array
    {
        preg_match_all('/['.self::UNSPACED.']+|(?:(?!['.self::UNSPACED.'])[\pL\pN])+/u', self::folded($text), $found);
        $words = [];
        foreach ($found[0] as $run) {
            if (preg_match('/^['.self::UNSPACED.']/u', $run) === 1) {
                array_push($words, ...self::pairs($run));
            } else {
                $words[] = mb_strcut($run, 0, self::LONGEST);
            }
        }

        return $words;
    }

    public static function folded(string $text): string
    {
        $text = mb_scrub($text, 'UTF-8');
        if (preg_match('/[^\x00-\x7f]/', $text) !== 1) {
            return strtolower($text);
        }
        $apart = Normalizer::normalize($text, Normalizer::FORM_KD);
        $bare = (string) preg_replace('/\p{Mn}+/u', '', $apart === false ? $text : $apart);

        return strtr(mb_strtolower($bare), self::LETTERS);
    }

    /** @return list<string> */
    private static function pairs(string $run): array
    {
        $characters = mb_str_split($run);
        if (count($characters) === 1) {
            return [$run];
        }
        $pairs = [];
        for ($at = 1; $at < count($characters); $at++) {
            $pairs[] = $characters[$at - 1].$characters[$at];
        }

        return $pairs;
    }
}
