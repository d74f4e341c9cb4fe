<?php

declare(strict_types=1);

namespace Outside\Jars;

use App\Kinds\Adopted;
use App\Kinds\AdoptOrder;
use App\Kinds\Intake;
use App\Kinds\RebuildOrder;
use App\Kinds\Rebuilt;
use App\Models\BackupSet;
use App\Models\Copy;
use App\Models\History;
use App\Models\Workload;
use App\Sets\AdoptedStore;
use App\Sets\SetFiles;
use App\Sets\SetPart;
use Kaiseki\Core\Archive\PieceDigests;
use Kaiseki\Core\Archive\StreamBytes;

final class JarIntake implements Intake
{
    public function adopt(AdoptOrder $order): Adopted
    {
        $workload = Workload::query()->firstOrCreate(['name' => $order->workload], ['kind' => 'jars']);
        $store = AdoptedStore::of($order->folder, $order->workload, $order->site);
        $history = History::query()->firstOrCreate(['workload_id' => $workload->id, 'name' => '1']);
        $sets = [];
        // NAME.jar, or NAME+PART.jar for jars that are filled at one time and belong together.
        $jars = [];
        foreach (glob("{$order->folder}/*.jar") ?: [] as $file) {
            [$name, $part] = explode('+', basename($file, '.jar')) + [1 => ''];
            $jars[$name][$part] = $file;
        }
        foreach ($jars as $name => $files) {
            $at = strtotime(substr($name, -16));
            $pieces = array_map(fn (string $file): PieceDigests => PieceDigests::of(StreamBytes::ofFile($file)), $files);
            $first = $pieces[array_key_first($pieces)];
            $sets[] = $set = BackupSet::query()->create([
                'workload_id' => $workload->id, 'history_id' => $history->id, 'name' => $name, 'level' => 'full', 'instant' => $at * 1_000_000,
                'captured_at' => gmdate('Y-m-d H:i:s', $at), 'consistency' => 'application', 'bytes' => $first->bytes, 'digest' => bin2hex($first->digest), 'entries' => 1,
            ]);
            count($files) > 1 ? SetPart::enter($set, $pieces) : $first->write(SetFiles::pieces($set->id));
            foreach (array_values($files) as $number => $file) {
                Copy::query()->create([
                    'set_id' => $set->id, 'store_id' => $store->id, 'part' => $number, 'path' => basename($file), 'bytes' => (int) filesize($file), 'gzipped' => false,
                ]);
            }
        }

        return new Adopted($sets, []);
    }

    public function rebuild(RebuildOrder $order): Rebuilt
    {
        return new Rebuilt;
    }
}
