<?php

declare(strict_types=1);

namespace App\Kinds\Items\Page;

use App\Kinds\Items\Catalog\FoundItem;
use App\Kinds\Items\Catalog\ItemReader;
use Carbon\CarbonImmutable;
use DateTimeZone;
use Kaiseki\Core\Mail\Calendar\FieldChange;

/** The states of an appointment or a contact, and how the one that is opened differs from another. */
final readonly class ItemStates
{
    /**
     * @param  list<FoundItem>  $all  the oldest first, the opened one among them
     * @param  FoundItem|null  $other  the newest; where that is opened the one before it; null where there is one state only
     * @param  list<FieldChange>  $changes  from the opened one to a newer other, else from an older other to it
     */
    private function __construct(
        public array $all,
        public ?FoundItem $other,
        public bool $isOtherNewer,
        public array $changes,
    ) {
    }

    /** @param  list<FoundItem>  $related  what has the same UID */
    public static function of(FoundItem $opened, string $bytes, array $related, ItemReader $reader, DateTimeZone $home): self
    {
        $all = [$opened, ...array_filter($related, fn (FoundItem $one): bool => $one->sort === $opened->sort)];
        usort($all, fn (FoundItem $a, FoundItem $b): int => [$a->first(), $a->until(), $a->id] <=> [$b->first(), $b->until(), $b->id]);
        $at = (int) array_search($opened->id, array_map(fn (FoundItem $one): int => $one->id, $all), true);
        $isNewest = $at === count($all) - 1;
        $other = $isNewest ? $all[$at - 1] ?? null : $all[count($all) - 1];
        $otherBytes = $other === null ? null : $reader->one($other->id);
        if ($other === null || $otherBytes === null) {
            return new self($all, null, false, []);
        }
        [$own, $that] = [$opened->sort->read($bytes)->root, $other->sort->read($otherBytes)->root];
        $changes = $isNewest ? FieldChange::between($that, $own, $home) : FieldChange::between($own, $that, $home);

        return new self($all, $other, ! $isNewest, $changes);
    }

    /** @return array<string, list<FieldChange>> day of a series that they are of, '' for the whole => changes */
    public function byDay(string $zone): array
    {
        $days = [];
        foreach ($this->changes as $change) {
            $format = strlen($change->part) === 8 ? 'D Y-m-d' : 'D Y-m-d H:i';
            $day = $change->part === '' ? '' : CarbonImmutable::parse($change->part, 'UTC')->setTimezone($zone)->format($format);
            $days[$day][] = $change;
        }

        return $days;
    }
}
