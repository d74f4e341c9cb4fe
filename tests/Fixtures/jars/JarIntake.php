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
        foreach (glob("{$order->folder}/*.jar") ?: [] as $file) {
            $at = strtotime(substr(basename($file, '.jar'), -16));
            $pieces = PieceDigests::of(StreamBytes::ofFile($file));
            $sets[] = $set = BackupSet::query()->create([
                'workload_id' => $workload->id, 'history_id' => $history->id, 'name' => basename($file, '.jar'), 'level' => 'full', 'instant' => $at * 1_000_000,
                'captured_at' => gmdate('Y-m-d H:i:s', $at), 'consistency' => 'application', 'bytes' => $pieces->bytes, 'digest' => bin2hex($pieces->digest), 'entries' => 1,
            ]);
            $pieces->write(SetFiles::pieces($set->id));
            Copy::query()->create(['set_id' => $set->id, 'store_id' => $store->id, 'path' => basename($file), 'bytes' => $pieces->bytes, 'gzipped' => false]);
        }

        return new Adopted($sets, []);
    }

    public function rebuild(RebuildOrder $order): Rebuilt
    {
        return new Rebuilt;
    }
}
