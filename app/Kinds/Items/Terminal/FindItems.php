<?php

declare(strict_types=1);

namespace App\Kinds\Items\Terminal;

use App\Console\CommandLine\KaisekiCommand;
use App\Kinds\Items\Catalog\FoundItem;
use App\Kinds\Items\Catalog\ItemFinder;
use App\Kinds\Items\Catalog\ItemWords;
use App\Kinds\Talk;
use App\Kinds\Told;
use App\Models\Workload;
use App\Words;
use InvalidArgumentException;
use Kaiseki\Core\Mail\ItemQuery;
use Symfony\Component\Console\Input\InputInterface;

/** `find` for items: by one line, at a point or whenever they were there. */
final class FindItems
{
    private const MOST = 10_000;

    public static function told(Workload $workload, InputInterface $input, Talk $talk): Told
    {
        $query = ItemQuery::parse((string) $input->getArgument('pattern'), $workload->zone);
        if ($query->isEmpty()) {
            throw new InvalidArgumentException('Say what to look for: words, from:, to:, subject:, before:, …');
        }
        ItemWords::bringUpToDate($workload, fn (int $done) => $talk->progress(number_format($done).' items looked through'));
        $point = $input->getOption('at') === null ? null : ItemsAtPoint::toLook($workload, $input)->point;
        $found = ItemFinder::find($workload, $query, $point, self::MOST + 1);
        $notes = count($found) > self::MOST ? ['More than '.number_format(self::MOST).' items fit; the oldest are left out.'] : [];
        $found = array_slice($found, 0, self::MOST);
        $span = fn (FoundItem $item) => $point === null ? null : $item->spansAt($point->history_id, $point->instant)[0] ?? null;

        return new Told(
            KaisekiCommand::DONE,
            [
                'point' => $point?->name,
                'items' => array_map(fn (FoundItem $item): array => ItemJson::of($item, $span($item)), $found),
                'notes' => $notes,
            ],
            function () use ($found, $span, $notes): iterable {
                foreach ($found as $item) {
                    yield ItemJson::line($item, $span($item));
                }
                yield from $notes;
                yield $found === [] ? 'Nothing fits.' : Words::count(count($found), 'item').'.';
            },
        );
    }
}
