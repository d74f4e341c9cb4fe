<?php

declare(strict_types=1);

namespace App\Kinds\Items\Run;

use App\Kinds\Items\Order\ChosenItem;
use App\Kinds\Items\Order\ItemForm;
use App\Kinds\Items\Order\ItemsOrder;
use Kaiseki\Core\Bag\Bag;
use Kaiseki\Core\Mail\MailLayout;

/** Names of the files that items become: made of what they are called, which may be anything. */
final class ItemFileNames
{
    private const LONGEST = 80;

    /** @var array<string, int> path => how many have it already */
    private array $taken = [];

    public function __construct(private readonly ItemsOrder $order)
    {
    }

    /** The file of one item, or the one that it goes into together with those of its folder. */
    public function of(ChosenItem $one, string $flags): string
    {
        $payload = $this->order->form === ItemForm::Bag ? Bag::PAYLOAD : '';
        $mailbox = $payload.self::path($this->order->mailboxFor($one), 'mailbox');
        $folder = $this->order->folderFor($one);

        if ($one->item->sort->isOfFields()) {
            $path = "$mailbox/".self::path($folder, 'folder');
            $ending = ".{$one->item->sort->ending()}";

            return $this->order->form === ItemForm::Mbox
                ? "$path$ending"
                : $this->free("$path/".self::part($one->item->subject, 'without a name'), $ending);
        }

        return match ($this->order->form) {
            ItemForm::Mbox => "$mailbox/".self::path($folder, 'folder').'.mbox',
            ItemForm::Eml, ItemForm::Zip, ItemForm::Bag => $this->free(
                "$mailbox/".self::path($folder, 'folder').'/'.gmdate('Ymd\THis\Z', $one->receivedAt()).' '.
                    self::part($one->item->subject, 'without a subject'),
                '.eml',
            ),
            ItemForm::Maildir => $this->free(
                "$mailbox/Maildir".self::maildir($folder).'/cur/'.$one->receivedAt().'.M'.substr(bin2hex($one->item->identity), 0, 12),
                ".kaiseki:2,$flags",
            ),
        };
    }

    /** Beside INBOX, with a dot before each part (common practice). */
    private static function maildir(string $folder): string
    {
        if ($folder === MailLayout::INBOX) {
            return '';
        }
        $parts = array_map(fn (string $part): string => str_replace('.', '_', $part), explode('/', $folder));

        return '/.'.str_replace(['/', "\0"], '_', (string) mb_convert_encoding(implode('.', $parts), 'UTF7-IMAP', 'UTF-8'));
    }

    private static function path(string $name, string $unless): string
    {
        return implode('/', array_map(fn (string $part): string => self::part($part, $unless), explode('/', $name)));
    }

    /** One part of a path that every file system takes. */
    private static function part(string $text, string $unless): string
    {
        $plain = (string) preg_replace('/[^\pL\pN .,_@+()-]+/u', '_', mb_scrub($text));
        $plain = trim(mb_strcut(trim($plain, ' .'), 0, self::LONGEST), ' .');

        return $plain === '' ? $unless : $plain;
    }

    private function free(string $stem, string $ending): string
    {
        $number = $this->taken[mb_strtolower($stem)] = ($this->taken[mb_strtolower($stem)] ?? 0) + 1;

        return $stem.($number === 1 ? '' : " ($number)").$ending;
    }
}
