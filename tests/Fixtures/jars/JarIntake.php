<?php

declare(strict_types=1);

namespace Outside\Jars;

use App\Kinds\Adopted;
use App\Kinds\AdoptOrder;
use App\Kinds\Intake;
use App\Kinds\RebuildOrder;
use App\Kinds\Rebuilt;
use App\Kinds\RebuiltSet;
use App\Kinds\RefusedFile;
use App\Models\BackupSet;
use App\Models\Copy;
use App\Models\History;
use App\Models\Store;
use App\Models\Workload;
use App\Sets\AdoptedStore;
use App\Sets\SetFiles;
use App\Sets\SetPart;
use InvalidArgumentException;
use Kaiseki\Core\Archive\PieceDigests;
use Kaiseki\Core\Archive\StreamBytes;
use Kaiseki\Core\Protect\PartRecord;

final class JarIntake implements Intake
{
    public function adopt(AdoptOrder $order): Adopted
    {
        $workload = Workload::query()->firstOrCreate(['name' => $order->workload], ['kind' => 'jars']);
        $store = AdoptedStore::of($order->folder, $order->workload, $order->site);
        $sets = [];
        // NAME.jar, or NAME+PART.jar for jars that are filled at one time and belong together.
        $jars = [];
        foreach (glob("{$order->folder}/*.jar") ?: [] as $file) {
            [$name, $part] = explode('+', basename($file, '.jar')) + [1 => ''];
            $jars[$name][$part] = $file;
        }
        foreach ($jars as $name => $files) {
            $pieces = array_map(fn (string $file): PieceDigests => PieceDigests::of(StreamBytes::ofFile($file)), $files);
            $sets[] = self::enter($workload, $store, $name, $pieces, array_map(basename(...), array_values($files)));
        }

        return new Adopted($sets, []);
    }

    /** By the records beside the sets alone. */
    public function rebuild(RebuildOrder $order): Rebuilt
    {
        $rebuilt = new Rebuilt;
        $folder = "{$order->store->root}/{$order->workload}";
        foreach (glob("$folder/*.set.json") ?: [] as $file) {
            $record = json_decode((string) file_get_contents($file), true);
            try {
                $pieces = [];
                $parts = PartRecord::all($record) ?: throw new InvalidArgumentException('It names no parts.');
                foreach ($parts as $part) {
                    $pieces[$part->name] = $is = PieceDigests::of(StreamBytes::ofFile("$folder/{$part->file}"));
                    if (bin2hex($is->digest) !== $part->digest) {
                        throw new InvalidArgumentException("The part {$part->name} is not what it was.");
                    }
                }
                $workload = Workload::query()->firstOrCreate(['name' => $order->workload], ['kind' => 'jars']);
                self::enter(
                    $workload,
                    $order->store,
                    $record['name'],
                    $pieces,
                    array_map(fn (PartRecord $part): string => "{$order->workload}/{$part->file}", $parts),
                );
                $rebuilt->sets[] = new RebuiltSet($order->workload, $record['name'], RebuiltSet::BY_ARCHIVE);
            } catch (InvalidArgumentException $wrong) {
                $rebuilt->problems[] = new RefusedFile(basename($file), $wrong->getMessage());
            }
        }

        return $rebuilt;
    }

    /**
     * @param  non-empty-array<string, PieceDigests>  $pieces  name of a part => what its file is
     * @param  list<string>  $paths  in the same order
     */
    private static function enter(Workload $workload, Store $store, string $name, array $pieces, array $paths): BackupSet
    {
        $history = History::query()->firstOrCreate(['workload_id' => $workload->id, 'name' => '1']);
        $at = strtotime(substr($name, -16));
        $first = $pieces[array_key_first($pieces)];
        $set = BackupSet::query()->create([
            'workload_id' => $workload->id,
            'history_id' => $history->id,
            'name' => $name,
            'level' => 'full',
            'instant' => $at * 1_000_000,
            'captured_at' => gmdate('Y-m-d H:i:s', $at),
            'consistency' => 'application',
            'bytes' => $first->bytes,
            'digest' => bin2hex($first->digest),
            'entries' => 1,
        ]);
        count($pieces) > 1 ? SetPart::enter($set, $pieces) : $first->write(SetFiles::pieces($set->id));
        foreach (array_values($pieces) as $number => $is) {
            Copy::query()->create([
                'set_id' => $set->id,
                'store_id' => $store->id,
                'part' => $number,
                'path' => $paths[$number],
                'bytes' => $is->bytes,
                'gzipped' => false,
            ]);
        }

        return $set;
    }
}
