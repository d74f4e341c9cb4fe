<?php

declare(strict_types=1);

namespace Kaiseki\Core\Chain;

/**
 * The order of reading: that of applying, but that what lies on one cartridge is read in one go, in winding order, so
 * that each is loaded once. What spans two cartridges is read last from the first and first from the second.
 */
final class ReadingOrder
{
    /** @var array<string, int> medium => its turn */
    private array $turns = [];

    /** @var array<string, string> medium => one that is read in the same go: a forest */
    private array $with = [];

    private function __construct()
    {
    }

    /**
     * @param  list<Reading>  $readings  in the order of applying
     * @return list<Reading>
     */
    public static function of(array $readings): array
    {
        $order = new self;
        $media = [];
        $noted = [];
        foreach ($readings as $i => $reading) {
            if ($reading->copy->media !== []) {
                $media[$i] = $reading->copy->mediaKeys();
                $noted[implode("\0", $media[$i])] ??= $media[$i];
            }
        }
        if ($noted === []) {
            return $readings;
        }
        array_map($order->note(...), $noted);
        $order->settleTurns(array_values($noted));
        $keys = [];
        $began = [];
        foreach ($readings as $i => $reading) {
            if (! isset($media[$i])) {
                $keys[] = pack('NNNJN', $i, 0, 0, 0, $i);

                continue;
            }
            $first = $media[$i][0];
            $go = $began[$order->root($first)] ??= $i;
            $keys[] = pack('NNNJN', $go, $order->turns[$first], count($media[$i]), $reading->copy->position, $i);
        }
        asort($keys, SORT_STRING);

        return array_map(fn (int $i): Reading => $readings[$i], array_keys($keys));
    }

    /** @param  list<string>  $media of one copy */
    private function note(array $media): void
    {
        foreach ($media as $medium) {
            $this->turns[$medium] ??= count($this->turns);
            $this->with[$medium] ??= $medium;
            $this->with[$this->root($medium)] = $this->root($media[0]);
        }
    }

    private function root(string $medium): string
    {
        while ($this->with[$medium] !== $medium) {
            $medium = $this->with[$medium];
        }

        return $medium;
    }

    /**
     * A cartridge on which something ends has its turn after the one on which that begins.
     *
     * @param  list<list<string>>  $copies  the media of each
     */
    private function settleTurns(array $copies): void
    {
        $after = [];
        foreach ($copies as $media) {
            for ($i = 1; $i < count($media); $i++) {
                $after[$media[$i]][$media[$i - 1]] = true;
            }
        }
        $settled = [];
        $visit = function (string $medium) use (&$visit, &$settled, $after): void {
            if (isset($settled[$medium])) {
                return;
            }
            $settled[$medium] = 0; // a circle is cut where it was entered
            foreach (array_keys($after[$medium] ?? []) as $before) {
                $visit((string) $before);
            }
            unset($settled[$medium]);
            $settled[$medium] = count($settled);
        };
        foreach (array_keys($this->turns) as $medium) {
            $visit((string) $medium);
        }
        $this->turns = array_map(intval(...), array_flip(array_map(strval(...), array_keys($settled))));
    }
}
