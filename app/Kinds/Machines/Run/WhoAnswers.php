<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Run;

use App\Kinds\Machines\Disks\VolumeTree;
use App\Kinds\Machines\Hypervisors\Answer;
use App\Kinds\Machines\Order\CannotBring;
use App\Words;
use Illuminate\Http\Client\ConnectionException;
use Illuminate\Support\Facades\Http;
use Kaiseki\Core\Machine\UnreadableImage;
use Kaiseki\Core\UnableToRead;
use Kaiseki\Core\Volume\UnreadableVolume;

/** Whether what answers at an address is a machine itself: the answer holds what files of its own held. */
final class WhoAnswers
{
    /** Seconds in which one question is answered: several at once would only slow it down. */
    private const ONE = 3;

    private const LONGEST_ANSWER = 65_536;

    private const LONGEST_FILE = 1024;

    /**
     * By what a machine is told from another.
     *
     * @return array<string, string> file => what it holds there
     *
     * @throws CannotBring if it cannot be read
     */
    public static function wanted(?Answer $answer, VolumeTree $tree): array
    {
        $wanted = [];
        foreach ($answer->files ?? [] as $path) {
            [$volume, $file] = $tree->find(ltrim(rawurldecode($path), '/'));
            try {
                $content = '';
                foreach ($volume->files?->content($file) ?? [] as $bytes) {
                    $content .= $bytes;
                    if (strlen($content) > self::LONGEST_FILE) {
                        break;
                    }
                }
            } catch (UnreadableVolume|UnreadableImage|UnableToRead $unreadable) {
                throw CannotBring::because("$path, by which it is known, cannot be read: {$unreadable->getMessage()}.");
            }
            $wanted[$path] = mb_scrub(trim(substr($content, 0, self::LONGEST_FILE)));
        }

        return $wanted;
    }

    /**
     * @param  array<string, string>  $wanted  as wanted() has them
     * @param  float  $after  seconds after which it answered
     * @return array{string, string} passed or failed, and how
     */
    public static function judge(string $said, array $wanted, float $after): array
    {
        $missing = array_filter($wanted, fn (string $content): bool => ! self::holds($said, $content));

        return $missing === []
            ? ['passed', 'after '.Words::duration($after).' it answered with '.implode(', ', $wanted)]
            : [
                'failed',
                'what answers is another: '.
                implode(', ', $missing).
                ' is not in "'.
                mb_strimwidth(mb_scrub(trim($said)), 0, 300, '...').
                '"',
            ];
    }

    /** As a word of its own: 1 is not in 12. */
    private static function holds(string $said, string $content): bool
    {
        return preg_match('/(?<![\w-])'.preg_quote($content, '/').'(?![\w-])/', $said) === 1;
    }

    /** What a page answers; null for no answer. */
    public static function ask(string $url): ?string
    {
        try {
            $answer = Http::timeout(self::ONE)
                ->withOptions(['allow_redirects' => false, 'stream' => true])
                ->get($url);

            return $answer->successful() ? $answer->toPsrResponse()->getBody()->read(self::LONGEST_ANSWER) : null;
        } catch (ConnectionException|\RuntimeException) {
            return null; // it accepts before it listens, and then says nothing
        }
    }
}
