<?php

declare(strict_types=1);

namespace App\Kinds\Items\Run;

use App\Kinds\Items\Catalog\ItemReader;
use App\Kinds\Items\Order\CannotBringItems;
use App\Kinds\Items\Order\ChosenItem;
use App\Kinds\Items\Order\ItemCount;
use App\Kinds\Items\Order\ItemsOrder;
use App\Kinds\Items\Order\Sending;
use App\Runs\RunFiles;
use App\Words;
use Illuminate\Mail\Message as Mailed;
use Illuminate\Support\Facades\Mail;
use Kaiseki\Core\Files\Journal;
use Kaiseki\Core\Mail\Attachment;
use Kaiseki\Core\Mail\ItemSort;
use Kaiseki\Core\Mail\Message;
use Symfony\Component\Mailer\Exception\TransportExceptionInterface;
use Symfony\Component\Mime\Part\DataPart;

/** Sends items to somebody as a message with each of them attached as it was. */
final class IntoMessage implements ItemPlacing
{
    private const SENDING = 'sending';

    private const SENT = 'sent';

    /** @var list<string> identities of what the message had attached, in order, as it was handed on */
    private array $handedOn = [];

    /** @var list<ChosenItem> */
    private array $attached = [];

    private readonly string $journal;

    public function __construct(
        private readonly ItemsOrder $order,
        private readonly ItemsAccount $account,
        private readonly ItemReader $reader,
    ) {
        $this->journal = RunFiles::journal($account->run);
    }

    public function locks(array $chosen): array
    {
        return [];
    }

    public function look(array $chosen): string
    {
        if (Journal::holds($this->journal, self::SENDING)) {
            throw CannotBringItems::because(
                "It is not known whether the message went to {$this->order->send} before the interruption: ask there, ".
                    'and order it again if not.',
            );
        }
        $because = Sending::refuses($chosen);
        if ($because !== null) {
            throw CannotBringItems::because($because);
        }

        return ItemCount::of($chosen).' for one message';
    }

    public function bring(array $chosen): string
    {
        $bytes = $this->reader->all(array_map(fn (ChosenItem $one): int => $one->item->id, $chosen));
        foreach ($chosen as $one) {
            if (isset($bytes[$one->item->id])) {
                $this->attached[] = $one;
            } else {
                $this->account->left($one, 'it is in no archive that can be read', true);
            }
        }
        if ($this->attached === []) {
            throw CannotBringItems::because('None of it is in an archive that can be read.');
        }
        $journal = Journal::open($this->journal);
        $journal->add(self::SENDING, $this->order->send);
        try {
            $sent = Mail::raw($this->words(), function (Mailed $message) use ($bytes): void {
                $message->to($this->order->send)->subject($this->subject());
                foreach ($this->attached as $number => $one) {
                    $message->getSymfonyMessage()->addPart(self::part($number + 1, $one, $bytes[$one->item->id]));
                }
            });
        } catch (TransportExceptionInterface $failure) {
            $because = mb_scrub(mb_strcut($failure->getMessage(), 0, 400));
            throw CannotBringItems::because("The mail server did not take the message: $because");
        }
        $journal->add(self::SENT, $this->order->send);
        $this->handedOn = self::identities($this->attached, $sent?->toString() ?? '');
        $this->account->progress->advanced(count($this->attached), array_sum(array_map(strlen(...), $bytes)));

        return "one message to {$this->order->send}";
    }

    public function check(array $chosen): string
    {
        $wrong = [];
        foreach ($this->attached as $number => $one) {
            if (($this->handedOn[$number] ?? '') === $one->item->identity) {
                $this->account->right($one, "in a message to {$this->order->send}");
            } else {
                $wrong[] = "\"{$one->title()}\" is not in the message as it is in the set";
            }
        }
        $count = ItemCount::words($this->account->sorts);
        $this->account->check('each by its digest, in the message as it was handed on', $wrong, "$count right");
        $this->account->folders["sent to {$this->order->send}"] = $this->account->items;

        return Words::count($this->account->items, 'item').' in the message';
    }

    /** A message as it was is attached in 8 bits: RFC 2046, section 5.2.1, allows it no other encoding. */
    private static function part(int $number, ChosenItem $one, string $bytes): DataPart
    {
        $sort = $one->item->sort;
        $type = match (true) {
            $sort === ItemSort::Message => 'message/rfc822',
            $sort === ItemSort::Contact => 'text/vcard',
            default => 'text/calendar',
        };

        return new DataPart($bytes, "$number.{$sort->ending()}", $type, $sort === ItemSort::Message ? '8bit' : 'base64');
    }

    /**
     * @param  list<ChosenItem>  $items
     * @return list<string> of what is attached
     */
    private static function identities(array $items, string $message): array
    {
        $read = Message::of($message);
        $attachments = $read->attachments();

        return array_map(
            fn (ChosenItem $one, ?Attachment $of): string => $of === null ? ''
                : $one->item->sort->identityOf($of->part->decoded($read->bytes)),
            $items,
            array_slice(array_pad($attachments, count($items), null), 0, count($items)),
        );
    }

    private function subject(): string
    {
        return 'Brought back: '.mb_strimwidth((string) preg_replace('/\s+/u', ' ', $this->attached[0]->title()), 0, 100, '…').
            (count($this->attached) > 1 ? ' and '.(count($this->attached) - 1).' more' : '');
    }

    private function words(): string
    {
        $lines = array_map(
            fn (int $number, ChosenItem $one): string => "  $number. {$one->title()}, {$one->span->mailbox}/{$one->span->folder}",
            range(1, count($this->attached)),
            $this->attached,
        );

        return "{$this->order->sentence}\n\nAttached as it was:\n".implode("\n", $lines)."\n";
    }
}
