<?php

declare(strict_types=1);

namespace App\Kinds\Items\Run;

use App\Kinds\Items\Order\ChosenItem;
use App\Kinds\Items\Order\ItemsOrder;
use App\Models\Run;
use App\Runs\ProofKey;
use Kaiseki\Core\Bag\Bag;
use Kaiseki\Core\Proof\SignedProof;

/** What a search for the law found, as a bag with its list and a seal that this desk signs. */
final class SealedBag
{
    public const SEAL = 'seal.json';

    private readonly Bag $bag;

    private readonly BagList $list;

    public function __construct(private readonly Run $run, private readonly ItemsOrder $order)
    {
        $this->bag = new Bag;
        $this->list = new BagList;
    }

    /** @param  string  $file  below the bag */
    public function add(string $file, ChosenItem $one, string $bytes): void
    {
        $digest = hash('sha256', $bytes);
        $this->bag->add($file, $digest, strlen($bytes));
        $this->list->add($file, $one, $digest);
    }

    /** @return array<string, string> name => content of what lies beside the payload, the seal last */
    public function files(): array
    {
        $request = $this->run->request;
        $who = $this->run->user->name ?? 'command line';
        $files = $this->bag->files(
            [
                'Bag-Software-Agent' => 'Kaiseki',
                'Bagging-Date' => gmdate('Y-m-d'),
                'Contact-Name' => $who,
                'External-Identifier' => $request === null ? "run {$this->run->id}" : "request {$request->id}, run {$this->run->id}",
                'External-Description' => $this->matter(),
                'Internal-Sender-Description' => $this->order->sentence,
            ],
            ['list.csv' => $this->list->csv, 'list.jsonl' => $this->list->lines],
        );
        $seal = SignedProof::sign([
            'kind' => 'kaiseki seal of a bag',
            'version' => 1,
            'matter' => $this->matter(),
            'order' => $this->order->sentence,
            'selection' => $this->order->selection->toArray(),
            'workload' => $this->run->workload->name,
            'point' => $this->run->set_name,
            'run' => $this->run->id,
            'request' => $request?->id,
            'asked_by' => $request?->requester->name,
            'run_by' => $who,
            'items' => $this->bag->count(),
            'made_at' => gmdate('Y-m-d\TH:i:s\Z'),
            'tagmanifest_sha256' => hash('sha256', $files[Bag::TAG_MANIFEST]),
        ], ProofKey::pair());

        return $files + [self::SEAL => $seal->json()];
    }

    private function matter(): string
    {
        return $this->run->request->summary ?? $this->order->selection->words();
    }
}
