export declare const spring: JsonWebKey;
export declare const autumn: JsonWebKey;
