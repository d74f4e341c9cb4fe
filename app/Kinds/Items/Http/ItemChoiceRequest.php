<?php

declare(strict_types=1);

namespace App\Kinds\Items\Http;

use App\Kinds\Items\Order\ItemConflict;
use App\Kinds\Items\Order\ItemForm;
use App\Kinds\Items\Order\ItemsSaid;
use Illuminate\Foundation\Http\FormRequest;
use Illuminate\Validation\Rule;
use Kaiseki\Core\Mail\ItemQuery;

/** One part of an order for items, as it is settled on the worksheet. */
final class ItemChoiceRequest extends FormRequest
{
    /** See ItemSelection::$items. */
    public const ITEM = '/^[0-9a-f]{16,64}(@[0-9]{8}(T[0-9]{6}Z)?)?$/D';

    public function authorize(): bool
    {
        return true; // the route asks the policy
    }

    /** @return array<string, mixed> */
    public function rules(): array
    {
        $name = ['nullable', 'string', 'regex:/^[^\x00-\x1f\x7f]*$/'];

        return [
            'settle' => 'required|in:point,pick,where,how',
            'point' => 'nullable|integer',
            'view' => ['nullable', 'string', 'regex:/^(&(days|mid|levels|state)=[a-z0-9.,-]{0,60}){0,4}$/D'],
            'pick' => 'required_if:settle,pick|in:ticked,only,thread,drop,found,folder,mailbox,vanished,nothing',
            'items' => 'array|max:2000',
            'items.*' => ['string', 'regex:'.self::ITEM],
            'item' => ['nullable', 'string', 'regex:'.self::ITEM],
            'q' => ['nullable', 'string', 'max:'.ItemQuery::LONGEST],
            'ever' => 'nullable|boolean',
            'mailbox' => [...$name, 'max:300'],
            'folder' => [...$name, 'max:600'],
            'back' => ['nullable', 'string', 'max:3000'],
            'destination' => ['required_if:settle,where', Rule::in(ItemsSaid::DESTINATIONS)],
            'server' => 'nullable|exists:mail_servers,name',
            'awaits' => 'nullable|boolean',
            'to_mailbox' => [...$name, 'max:300'],
            'to_folder' => [...$name, 'max:600'],
            'send_to' => 'nullable|email:rfc|max:254',
            'form' => ['nullable', Rule::enum(ItemForm::class)],
            'conflict' => ['required_if:settle,how', Rule::enum(ItemConflict::class)],
        ];
    }
}
