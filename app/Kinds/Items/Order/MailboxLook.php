<?php

declare(strict_types=1);

namespace App\Kinds\Items\Order;

use App\Kinds\Items\Server\MailboxCheck;
use App\Kinds\Look;
use App\Models\RecoveryRequest;
use Closure;
use Kaiseki\Core\Proof\CheckLine;

/** Looks at the mailboxes that an order goes into: whether they are there, what of it lies in them already, how much room there is. */
final readonly class MailboxLook implements Look
{
    private ItemsSheet $sheet;

    public function __construct(RecoveryRequest $request, array $asked, ?ItemsSheet $sheet = null)
    {
        $this->sheet = $sheet ?? new ItemsSheet($request);
    }

    public function title(): string
    {
        return 'the mailboxes on '.($this->sheet->order === null ? 'the server' : $this->sheet->order->server);
    }

    public function fingerprint(): string
    {
        return hash('sha256', "mailboxes\0".$this->sheet->fingerprint());
    }

    /** @return array{lines: list<array<string, string>>, there: int} lines as CheckLine keeps them */
    public function take(Closure $told): array
    {
        $order = $this->sheet->order;
        if ($order === null || ! $order->isToServer()) {
            return ['lines' => [], 'there' => 0];
        }
        $check = MailboxCheck::of($order, $this->sheet->chosen);

        return ['lines' => CheckLine::kept($check->lines), 'there' => $check->there];
    }
}
