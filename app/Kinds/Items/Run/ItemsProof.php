<?php

declare(strict_types=1);

namespace App\Kinds\Items\Run;

use App\Kinds\Items\Order\ItemsOrder;
use App\Models\Run;
use App\Runs\Evidence;
use App\Trees\Run\PathInJson;

/** The evidence of a run that brought items: what came into which folder, and what was found when it was read again. */
final class ItemsProof
{
    /** @param  array<string, mixed>  $outcome */
    public static function write(Run $run, ItemsOrder $order, array $outcome): void
    {
        Evidence::sign($run, [
            'kind' => 'kaiseki proof of a restore of items',
            'version' => 2,
            'run' => $run->id,
            'request' => $run->request_id,
            'order' => $order->sentence,
            'workload' => $run->workload->name,
            'point' => $run->set_name,
            'captured_at' => $run->set->captured_at->format('Y-m-d\TH:i:s.u\Z'),
            'asked_by' => $run->request?->requester->name,
            'run_by' => $run->user->name ?? 'command line',
            'selection' => $order->selection->toArray(),
            'server' => $order->isToServer() ? $order->server : null,
            'mailbox' => $order->mailbox,
            'folder' => $order->folder,
            'sent_to' => $order->send === '' ? null : $order->send,
            'target' => $order->isToFolder() ? PathInJson::of($order->target) : null,
            'form' => $order->isToFolder() ? $order->form->value : null,
            'conflict' => $order->conflict->value,
            'started_at' => $run->started_at?->format('Y-m-d\TH:i:s.v\Z'),
            'ended_at' => $run->ended_at?->format('Y-m-d\TH:i:s.v\Z'),
            'items' => $outcome['messages'],
            'sorts' => $outcome['sorts'],
            'set_aside' => $outcome['set_aside'],
            'bytes' => $outcome['bytes'],
            'there_already' => $outcome['there'],
            'folders' => $outcome['folders'],
            'checks' => $outcome['checks'],
            'right' => $outcome['right'],
            'left_out' => $outcome['left_out'],
            'left_out_count' => $outcome['left_out_count'],
            'entries_blake2b_256' => $outcome['entries'],
            'bag_tagmanifest_sha256' => $outcome['bag'] ?? null,
            'seen_as_user' => $outcome['seen_as_user'] ?? null,
            'steps' => Evidence::steps($run),
            'approval' => Evidence::approval($run),
        ]);
    }
}
