<?php

declare(strict_types=1);

namespace App\Jobs;

use InvalidArgumentException;

/**
 * The lines in which jobs wait, each with workers of its own, so that what takes hours by nature holds up nothing but its like: two
 * restores of a night must neither make sets miss their time nor keep a dead run from being found.
 */
enum Line: string
{
    /** What somebody waits for: restoring, putting back, bringing sets near. */
    case Runs = 'runs';

    /** What the clock begins, each a matter of moments; what takes longer it puts into another line. */
    case Clock = 'clock';

    case Sets = 'sets';

    case Copies = 'copies';

    case Expiry = 'expiry';

    /** Reading back that somebody asked for. */
    case Checks = 'checks';

    /** Reading back by plan, which takes whole nights. */
    case Plans = 'plans';

    case Texts = 'texts';

    /** Looking at how things stand, for the pages. */
    case Looks = 'looks';

    /** Sending alarms: the other side may take its time. */
    case Alarms = 'alarms';

    /** What is done once a night. */
    case Night = 'night';

    private const MOST = 64;

    /**
     * @param  string  $said  such as "runs=3 sets=1", or "3" for runs alone
     * @return array<string, int> name => workers
     *
     * @throws InvalidArgumentException
     */
    public static function numbers(string $said): array
    {
        $numbers = [];
        foreach (self::cases() as $line) {
            $numbers[$line->value] = in_array($line, [self::Runs, self::Sets, self::Looks], true) ? 2 : 1;
        }
        foreach (preg_split('/[\s,]+/', $said, -1, PREG_SPLIT_NO_EMPTY) ?: [] as $word) {
            [$name, $number] = str_contains($word, '=') ? explode('=', $word, 2) : [self::Runs->value, $word];
            if (! isset($numbers[$name]) || preg_match('/^[1-9]\d?$/D', $number) !== 1 || (int) $number > self::MOST) {
                throw new InvalidArgumentException(
                    'KAISEKI_WORKERS is a number, or LINE=NUMBER with spaces between them, each from 1 to '.
                        self::MOST.
                        ', of these lines: '.
                        implode(', ', array_keys($numbers)).
                        ". Not: $word",
                );
            }
            $numbers[$name] = (int) $number;
        }

        return $numbers;
    }
}
