<p>Jam can be made of request {{ $request->id }}.</p>
