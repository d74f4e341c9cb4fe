<?php

declare(strict_types=1);

namespace App\Care;

use App\Instance;
use App\Models\BackupSet;
use App\Models\Check;
use App\Models\Copy;
use App\Models\Store;
use App\Models\TrailEntry;
use App\Models\User;
use App\Sets\CannotRegister;
use App\Sets\SetPart;
use App\Sets\SidecarFiles;
use App\Stores\OpenStores;
use App\Stores\StoredCopy;
use App\Stores\UnableToStore;
use Kaiseki\Core\Archive\ContentDigest;
use Kaiseki\Core\Archive\PieceDigests;
use Kaiseki\Core\Archive\RawBytes;
use Kaiseki\Core\Archive\UnreadableArchive;

/**
 * Makes a damaged or missing copy right again, piece by piece, from whichever copies still hold each piece: two that are
 * damaged in different places are enough. The bad file stays beside it until the mended one was read back.
 */
final class Mending
{
    private readonly ReadBack $readBack;

    public function __construct(private readonly OpenStores $stores = new OpenStores)
    {
        $this->readBack = new ReadBack($stores);
    }

    /**
     * On its own store where that may be written to; else the good copy goes to a store of ours.
     *
     * @return Check how the mended copy was found to be
     *
     * @throws CannotRegister
     */
    public function mend(Copy $copy, ?User $by = null): Check
    {
        $set = $copy->set;
        if ($copy->store->read_only || $copy->store->kind === 'tape') {
            $ours =
                $this->storeOfOurs($copy) ??
                throw CannotRegister::because(
                    $copy->store->read_only
                        ? "The store {$copy->store->name} is read-only for us, and there is no store of ours that could take the good copy."
                        : 'What is on a cartridge cannot be mended, and there is no store of ours that could take the good copy.',
                );
            $check = $this->writeTo($ours, SetPart::of($copy), $by);
        } else {
            $check = $this->mendInPlace($copy, $set, $by);
        }
        TrailEntry::add(
            "The copy of {$set->name} on {$copy->store->name} was mended".
                ($check->store_name === $copy->store->name ? '' : ": the good one is on {$check->store_name}").
                '.',
            null,
            $by,
        );

        return $check;
    }

    private function mendInPlace(Copy $copy, BackupSet $set, ?User $by): Check
    {
        $store = $this->stores->of($copy->store);
        $aside = $copy->path.'.aside-'.now()->utc()->format('Ymd\THis\Z');
        $wrong = SidecarFiles::wrong($copy, $set, $this->stores);
        $isRight = $this->isRight($copy, $set);
        $mended = $isRight ? null : $this->assemble(SetPart::of($copy));
        try {
            $wasThere = false;
            if ($mended !== null) {
                $wasThere = $this->isThere($copy);
                if ($wasThere) {
                    $store->rename($copy->path, $aside);
                }
                $stored = $store->add($copy->path, $mended);
                $copy->update(['bytes' => $stored->bytes]);
            }
            foreach (array_keys($wrong) as $ending) {
                $this->mendSidecar($copy, $set, $ending);
            }
            $check = $this->readBack->check($copy->refresh(), $by);
            if (! $check->isRight() && $this->isRight($copy, $set)) {
                return $check; // the archive is right again; what lies beside it is told
            }
            if (! $check->isRight()) {
                if ($wasThere) {
                    $store->delete($copy->path);
                    $store->rename($aside, $copy->path);
                }
                throw CannotRegister::because(
                    "{$set->name} was mended on {$copy->store->name}, but was not right when it was read back: {$check->because}",
                );
            }
            if ($wasThere) {
                $store->delete($aside);
            }

            return $check;
        } catch (UnableToStore $unable) {
            if ($mended !== null && ! $this->isThere($copy)) {
                try {
                    $store->rename($aside, $copy->path); // a bad copy is better than none
                } catch (UnableToStore) {
                }
            }
            throw CannotRegister::because("{$set->name} was not mended on {$copy->store->name}: {$unable->getMessage()}.");
        } finally {
            if ($mended !== null) {
                @unlink($mended);
            }
        }
    }

    /** @throws CannotRegister */
    private function writeTo(Store $store, SetPart $part, ?User $by): Check
    {
        $set = $part->set;
        $mended = $this->assemble($part);
        try {
            $name = basename((string) $set->copies()->where('part', $part->number)->value('path'));
            $stored = $this->stores->of($store)->add("{$set->workload->name}/$name", $mended);
            $copy = Copy::query()->updateOrCreate(
                ['set_id' => $set->id, 'store_id' => $store->id, 'part' => $part->number],
                [
                    'path' => $stored->path,
                    'bytes' => $stored->bytes,
                    'state' => 'ok',
                    'state_because' => null,
                    'damage' => null,
                    'gzipped' => str_ends_with($name, 'gz'),
                    'has_beside' => false,
                ],
            );

            return $this->readBack->check($copy, $by);
        } catch (UnableToStore $unable) {
            throw CannotRegister::because("The good copy of {$set->name} was not written to {$store->name}: {$unable->getMessage()}.");
        } finally {
            @unlink($mended);
        }
    }

    /**
     * The archive as it was registered, put together in the home from what the copies hold.
     *
     * @throws CannotRegister
     */
    private function assemble(SetPart $part): string
    {
        $set = $part->set;
        $was = $part->pieces();
        if ($was === null) {
            return $this->wholeCopy($part);
        }
        $sources = $this->sources($part);
        $file = Instance::folder('tmp')."/mend-{$set->id}-".getmypid();
        $out = @fopen($file, 'wb') ?: throw CannotRegister::because("The temporary file $file cannot be made.");
        try {
            for ($number = 0; $number < $was->count(); $number++) {
                $piece =
                    self::pieceFrom($sources, $number, (string) $was->at($number)) ??
                    throw CannotRegister::because(
                        "{$set->name} cannot be mended: bytes ".
                            number_format($number * PieceDigests::PIECE).
                            ' to '.
                            number_format(min($was->bytes, ($number + 1) * PieceDigests::PIECE) - 1).
                            ' are right on no copy.',
                    );
                if (fwrite($out, $piece) !== strlen($piece)) {
                    throw CannotRegister::because('The temporary file cannot be written: is the disk full?');
                }
            }
        } catch (CannotRegister $cannot) {
            fclose($out);
            @unlink($file);
            throw $cannot;
        }
        fclose($out);

        return $file;
    }

    /**
     * @param  list<RawBytes>  $sources  each stands where its last piece ended
     */
    private static function pieceFrom(array $sources, int $number, string $digest): ?string
    {
        foreach ($sources as $source) {
            try {
                $source->seek($number * PieceDigests::PIECE);
                $piece = PieceDigests::piece($source);
                if (ContentDigest::of($piece) === $digest) {
                    return $piece;
                }
            } catch (UnreadableArchive) {
                continue;
            }
        }

        return null;
    }

    /** @return list<RawBytes> */
    private function sources(SetPart $part): array
    {
        $sources = [];
        foreach (
            $part->set
                ->copies()
                ->where('part', $part->number)
                ->with('store')
                ->get()
                ->sortBy(fn (Copy $copy): int => ($copy->state === 'damaged' ? 2 : 0) + ($copy->store->kind === 'folder' ? 0 : 1)) as $copy
        ) {
            try {
                if ($this->stores->of($copy->store)->silence() === null) {
                    $sources[] = new PiecewiseBytes(
                        fn (int $offset): RawBytes => $this->stores->of($copy->store)->raw(StoredCopy::of($copy), $offset),
                        $copy->bytes,
                    );
                }
            } catch (UnreadableArchive) {
                continue;
            }
        }

        return $sources;
    }

    /** For a set without digests of its pieces: one copy must be right as a whole. */
    private function wholeCopy(SetPart $part): string
    {
        $set = $part->set;
        foreach ($set->copies()->where('part', $part->number)->with('store', 'set')->get() as $copy) {
            if ($this->readBack->check($copy)->isRight()) {
                return $this->assemble(SetPart::of($copy->refresh()));
            }
        }
        throw CannotRegister::because("{$set->name} cannot be mended: no copy of it is right.");
    }

    private function mendSidecar(Copy $copy, BackupSet $set, string $ending): void
    {
        foreach ($set->copies()->with('store')->whereKeyNot($copy->id)->where('has_beside', true)->get() as $other) {
            if (SidecarFiles::digestOf($other, $set, $ending, $this->stores) !== ($set->beside[$ending] ?? null)) {
                continue;
            }
            $spool = Instance::folder('tmp')."/beside-{$copy->id}-".getmypid();
            try {
                $bytes = $this->stores->of($other->store)->raw(new StoredCopy(SidecarFiles::path($other, $set, $ending), 0));
                $out = fopen($spool, 'wb');
                while ($out !== false && ($part = $bytes->read(1 << 18)) !== '') {
                    fwrite($out, $part);
                }
                $this->stores->of($copy->store)->add(SidecarFiles::path($copy, $set, $ending), $spool);

                return;
            } finally {
                @unlink($spool);
            }
        }
    }

    private function isRight(Copy $copy, BackupSet $set): bool
    {
        try {
            $digest = SetPart::of($copy)->digest;

            return $digest !== null &&
                bin2hex(PieceDigests::of($this->stores->of($copy->store)->raw(StoredCopy::of($copy)))->digest) === $digest;
        } catch (UnreadableArchive) {
            return false;
        }
    }

    private function isThere(Copy $copy): bool
    {
        try {
            $this->stores->of($copy->store)->raw(StoredCopy::of($copy));

            return true;
        } catch (UnreadableArchive) {
            return false;
        }
    }

    /** At the same site if there is one; not one that holds a copy already, unless that is to be mended too. */
    private function storeOfOurs(Copy $copy): ?Store
    {
        $right = $copy->set
            ->copies()
            ->where('part', $copy->part)
            ->whereIn('state', ['ok', 'checked'])
            ->pluck('store_id')
            ->all();

        return $this->stores
            ->all()
            ->filter(fn (Store $store): bool => ! $store->read_only && $store->kind === 'folder' && ! in_array($store->id, $right, true))
            ->sortBy(fn (Store $store): int => $store->site === $copy->store->site ? 0 : 1)
            ->first();
    }
}
